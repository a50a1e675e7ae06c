import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { v4 as uuid } from 'uuid'
import { api, ask, type StudyLine } from '../data/api'
import { client, useHome } from '../data/queries'
import { Frame } from '../parts/Frame'
import { Field, Sheet, Skeleton, Trouble } from '../parts/parts'

const PLACE = { ask: 'ask', plan: 'plan', build: 'build', run: 'run', work_out: 'work-out', show: 'work-out' } as const
const STAGE = { ask: 'Ask', plan: 'Plan', build: 'Build', run: 'Run', work_out: 'Work out', show: 'Finished' } as const

export function Home() {
  const home = useHome()
  const [making, setMaking] = useState(false)
  if (home.isPending) return <Skeleton lines={5} />
  if (home.isError) return <Trouble error={home.error} again={() => void home.refetch()} />
  const [next, ...rest] = home.data
  const open = next?.readable && next.stage !== 'show' ? next : undefined
  const others = open ? rest : home.data
  return (
    <Frame title="Studies">
      <div className="mx-auto w-full max-w-[76rem] px-4 py-8 md:px-8">
        {open ? <Next line={open} /> : null}
        <div className="mt-10 flex flex-wrap items-baseline gap-x-6 gap-y-2">
          <h2 className="m-0 text-[1.6rem]">{open ? 'Other studies' : 'Studies'}</h2>
          <span className="grow" />
          <Link to="/read-in" className="btn btn-plain">
            Import a results table
          </Link>
          <button type="button" className="btn btn-act" onClick={() => setMaking(true)}>
            New study
          </button>
        </div>
        {others.length ? (
          <ul className="m-0 mt-3 list-none p-0">
            {others.map((s) => (
              <Line key={s.id} s={s} />
            ))}
          </ul>
        ) : open ? null : (
          <p className="hair mt-3 pt-6 text-[1.2rem]">Nothing here yet. Begin with a new study: one question, one thing to change, one thing to measure.</p>
        )}
      </div>
      <NewStudy open={making} onClose={() => setMaking(false)} />
    </Frame>
  )
}

/** A day as it is said. */
export function dayWord(iso: string | null): string {
  if (!iso) return ''
  const day = new Date(`${iso}T12:00:00`)
  const days = Math.round((day.getTime() - new Date(new Date().toDateString()).getTime()) / 86_400_000 - 0.5)
  if (days === 0) return 'Today'
  if (days === 1) return 'Tomorrow'
  return day.toLocaleDateString('en-GB', { weekday: 'long', day: 'numeric', month: 'long' })
}

function Next({ line }: { line: StudyLine }) {
  return (
    <section aria-labelledby="next-title">
      <p className="m-0 text-[1.05rem] font-semibold text-quiet">Next lesson{line.next_lesson ? `: ${dayWord(line.next_lesson)}` : ''}</p>
      <h1 id="next-title" className="m-0 mt-1 text-[3.2rem] md:text-[4.4rem]">
        {line.title}
      </h1>
      <p className="m-0 mt-2 max-w-[46rem] text-[1.2rem]">{line.question}</p>
      <Progress line={line} />
      <div className="mt-5 flex flex-wrap items-center gap-x-6 gap-y-3">
        <Link to={`/study/${line.id}/${PLACE[line.stage]}`} className="btn btn-act min-h-[64px] px-8 text-[1.25rem]">
          {line.next_act}
        </Link>
        <span className="text-[1.1rem]">{line.missing}</span>
      </div>
    </section>
  )
}

/** Trials kept so far as marks along a piece of tape, one cell for each planned trial. */
function Progress({ line }: { line: StudyLine }) {
  if (!line.planned) return null
  const shown = Math.max(line.planned, line.kept)
  return (
    <div className="mt-6 max-w-[60rem]">
      <div className="flex h-9 border-b-4 border-tape-edge bg-tape" role="img" aria-label={`${line.kept} of ${line.planned} trials kept`}>
        {Array.from({ length: shown }, (_, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: cells have no identity
          <span key={i} className="grow border-l-2 border-tape-ink/70 first:border-l-0">
            <span className={`mx-auto mt-[10px] block h-3 w-3 rounded-full ${i < line.kept ? 'bg-tape-ink' : ''}`} />
          </span>
        ))}
      </div>
      <p className="m-0 mt-1 text-quiet">
        {line.kept} of {line.planned} trials kept{line.void ? `, ${line.void} void` : ''}{line.extra ? `, ${line.extra} extra` : ''}{line.outside ? `, ${line.outside} outside the plan` : ''}
      </p>
    </div>
  )
}

function Line({ s }: { s: StudyLine }) {
  if (!s.readable)
    return (
      <li className="hair px-1 py-4" data-unreadable>
        <p className="m-0 flex flex-wrap items-baseline gap-x-6">
          <span className="big text-[1.45rem]">{s.title}</span>
          <a className="btn btn-plain" href={`/api/studies/${s.id}/plan.json`} download>
            {s.next_act}
          </a>
        </p>
        <p className="m-0 text-doubt">{s.missing}</p>
      </li>
    )
  return (
    <li className="hair">
      <Link to={`/study/${s.id}/${PLACE[s.stage]}`} className="grid grid-cols-[1fr_auto] gap-x-6 gap-y-0.5 px-1 py-4 text-ink no-underline hover:bg-tape/25 md:grid-cols-[minmax(16rem,24rem)_7rem_1fr_auto]">
        <span className="big text-[1.45rem]">{s.title}</span>
        <span className="self-center font-semibold">{STAGE[s.stage]}</span>
        <span className="col-span-2 self-center text-quiet md:col-span-1">
          {s.next_lesson ? `${dayWord(s.next_lesson)}: ` : ''}
          {s.missing || `${s.kept} trials kept${s.void ? `, ${s.void} void` : ''}`}
        </span>
        <span className="hidden self-center font-semibold underline decoration-2 underline-offset-4 md:inline">{s.next_act}</span>
      </Link>
    </li>
  )
}

function NewStudy({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [title, setTitle] = useState('')
  const [id] = useState(() => uuid())
  const [says, setSays] = useState('')
  const go = useNavigate()
  const [file, setFile] = useState<File>()
  const make = async (stage: 'plan' | 'ask' = 'plan') => {
    try {
      const form = file ? await file.text().catch(() => Promise.reject(new Error('The file has changed since it was chosen. Choose it again.'))) : ''
      const study = await ask(file ? api.POST('/api/plans', { body: { id, title, text: form } }) : api.POST('/api/studies', { body: { id, title, draft: undefined as never } }))
      client.setQueryData(['study', study.id], study)
      void client.invalidateQueries({ queryKey: ['home'] })
      go(`/study/${study.id}/${stage}`)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <Sheet open={open} onClose={onClose} title="New study">
      <form
        onSubmit={(e) => {
          e.preventDefault()
          void make()
        }}
        className="grid gap-5"
      >
        <Field label="What is it called?" says={says}>
          {(p) => <input {...p} className="field text-[1.3rem]" value={title} placeholder="Ferry across the pond" onChange={(e) => setTitle(e.target.value)} />}
        </Field>
        <Field label="Start from a plan file (or leave empty)" hint="A plan saved from Bendro as JSON; its title is used when none is written.">
          {(p) => <input {...p} type="file" accept="application/json,.json" className="field" onChange={(e) => setFile(e.target.files?.[0])} />}
        </Field>
        <div className="flex flex-wrap gap-3">
          <button type="submit" className="btn btn-act grow">
            Plan it
          </button>
          <button type="button" className="btn grow" onClick={() => void make('ask')}>
            Ask the class first
          </button>
        </div>
      </form>
    </Sheet>
  )
}

