import type { ReactNode } from 'react'
import type { Typing, TypingNow } from '../machines/typing'

/** Whether what is typed is stored, whose side stands when two typed at once, and the way back from what was refused. */
export function SavedNote<T extends object>({
  now,
  machine,
  theirs,
  back,
}: {
  now: TypingNow<T>
  machine: Typing<T>
  theirs?: (draft: T) => ReactNode
  back: string
}) {
  const { saving } = now
  return (
    <>
      <div
        role="status"
        aria-live="polite"
        className={`no-print mt-3 ${saving.state === 'saved' || saving.state === 'saving' ? 'text-quiet' : 'font-semibold text-doubt'}`}
      >
        {saving.state === 'saved'
          ? 'Saved.'
          : saving.state === 'saving'
            ? 'Saving …'
            : `${saving.where ? `${saving.where.replace(/[._]/g, ' ')}: ` : ''}${saving.says}`}
      </div>
      {saving.state === 'clash' && saving.theirs ? (
        <div className="mt-2 flex flex-wrap gap-2" role="alert">
          {theirs ? <p className="m-0 w-full">{theirs(saving.theirs.draft)}</p> : null}
          <button type="button" className="btn" onClick={() => machine.settle('mine')}>
            Keep mine
          </button>
          <button type="button" className="btn" onClick={() => machine.settle('theirs')}>
            Take theirs
          </button>
        </div>
      ) : null}
      {saving.state === 'refused' ? (
        <button type="button" className="btn mt-2" onClick={machine.giveUp}>
          {back}
        </button>
      ) : null}
    </>
  )
}
