import { type FormEvent, useId, useState } from 'react'
import { same } from '../../planning/choose'

type WallProps = {
  title: string
  ideas: string[]
  chosen: string[]
  tag: string
  act: string
  usual: string[]
  familyName: string | undefined
  onIdeas: (ideas: string[]) => void
  onChoose: (idea: string) => void
}

/** One half of the ideas wall: large enough to be read from the last row, one line to write on, one press to choose. */
export function Wall({ title, ideas, chosen, tag, act, usual, familyName, onIdeas, onChoose }: WallProps) {
  const [text, setText] = useState('')
  const [gone, setGone] = useState<{ idea: string; at: number }>()
  const id = useId()
  const shown = [...ideas, ...chosen.filter((c) => !ideas.some((i) => same(i, c)))]
  const missing = usual.filter((u) => !shown.some((i) => same(i, u)))
  const twice = shown.some((i) => same(i, text))
  const add = (e: FormEvent) => {
    e.preventDefault()
    const idea = text.trim().replace(/\s+/g, ' ').slice(0, 60)
    if (!idea || twice) return
    onIdeas([...ideas, idea])
    setText('')
  }
  const away = (idea: string) => {
    setGone({ idea, at: ideas.indexOf(idea) })
    onIdeas(ideas.filter((i) => i !== idea))
  }
  return (
    <section aria-label={title}>
      <h2 className="m-0 border-t-2 border-ink pt-3 text-[2rem]">{title}</h2>
      <ul className="m-0 mt-2 list-none p-0">
        {shown.map((idea) => {
          const taken = chosen.some((c) => same(c, idea))
          return (
            <li key={idea.toLowerCase()} className="hair flex min-h-[56px] items-center gap-3 py-1 print:min-h-0">
              <span className="min-w-0 grow break-words text-[1.5rem] leading-tight">
                <span className={taken ? 'mark-line font-bold' : ''}>{idea}</span>
                {taken ? <span className="ml-3 text-[1rem] text-quiet">{tag}</span> : null}
              </span>
              <button
                type="button"
                className={`btn min-h-[44px] shrink-0 px-3 ${taken ? 'btn-plain' : ''}`}
                aria-pressed={taken}
                aria-label={`${taken ? 'Leave out' : act}: ${idea}`}
                onClick={() => onChoose(idea)}
              >
                {taken ? 'Leave out' : act}
              </button>
              {taken ? null : (
                <button
                  type="button"
                  className="btn btn-plain min-w-[44px] shrink-0 px-1"
                  aria-label={`Remove “${idea}” from the wall`}
                  onClick={() => away(idea)}
                >
                  ×
                </button>
              )}
            </li>
          )
        })}
      </ul>
      <form onSubmit={add} className="no-print hair flex items-end gap-3 pt-2">
        <label htmlFor={id} className="sr-only">
          {title} Another idea
        </label>
        <input
          id={id}
          className="field text-[1.5rem]"
          value={text}
          maxLength={60}
          placeholder={shown.length ? 'another idea' : 'as it is called out'}
          onChange={(e) => setText(e.target.value)}
        />
        <button type="submit" className="btn" disabled={!text.trim() || twice}>
          Add
        </button>
      </form>
      <div className="mt-1 flex flex-wrap gap-x-5" aria-live="polite">
        {twice && text.trim() ? <p className="m-0 mt-2 text-quiet">It is on the wall already.</p> : null}
        {gone ? (
          <button
            type="button"
            className="btn btn-plain"
            onClick={() => {
              onIdeas([...ideas.slice(0, gone.at), gone.idea, ...ideas.slice(gone.at)])
              setGone(undefined)
            }}
          >
            Restore “{gone.idea}”
          </button>
        ) : null}
        {missing.length && familyName ? (
          <button type="button" className="btn btn-plain" onClick={() => onIdeas([...ideas, ...missing])}>
            Add the usual ones for a {familyName.toLowerCase()} ({missing.length})
          </button>
        ) : null}
      </div>
    </section>
  )
}
