import { counted } from '../parts/counted'
import { Suspense, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { v4 as uuid } from 'uuid'
import { api, ask, type Draft, type StudyLine } from '../data/api'
import { anew, client, useHome, useThrownAway } from '../data/queries'
import { patchLine, takeBack, throwAway } from '../data/studies'
import { Frame } from '../parts/Frame'
import { Field, Sheet, Skeleton, Trouble } from '../parts/parts'
import { later } from '../parts/soon'
import { useKeys } from '../parts/useKeys'
import { Leftover } from '../parts/Waiting'

const KeySheet = later(async () => ({ default: (await import('./run/Keys')).KeySheet }))
const PLACE = { ask: 'ask', plan: 'plan', build: 'build', run: 'run', work_out: 'work-out', show: 'work-out' } as const
const STAGE = { ask: 'Ask', plan: 'Plan', build: 'Build', run: 'Run', work_out: 'Work out', show: 'Finished' } as const

export function Home() {
  const home = useHome()
  const [making, setMaking] = useState(false)
  const [keys, setKeys] = useState(false)
  useKeys((e) => {
    if (e.key === '?') setKeys(true)
  })
  if (home.isPending) return <Skeleton lines={5} />
  if (home.isLoadingError) return <Trouble error={home.error} again={() => void home.refetch()} />
  const { open, also, others } = inTurn(home.data)
  return (
    <Frame title="Studies">
      <div className="mx-auto w-full max-w-[76rem] px-4 py-8 md:px-8">
        {open ? <Next line={open} /> : null}
        {also.length ? (
          <section aria-label="Also that day" className="mt-6" data-also>
            <h2 className="m-0 text-[1.3rem]">Also {dayWord(open?.next_lesson ?? null).replace(/^To/, 'to')}</h2>
            <ul className="m-0 list-none p-0">
              {also.map((s) => (
                <Line key={s.id} s={s} />
              ))}
            </ul>
          </section>
        ) : null}
        <div className="mt-10 flex flex-wrap items-baseline gap-x-6 gap-y-2">
          <h2 className="m-0 text-[1.6rem]">{open ? 'Other studies' : 'Studies'}</h2>
          <span className="grow" />
          <Link to="/usual" className="btn btn-act">
            Start from a usual test
          </Link>
          {home.data.some((s) => s.kept > 0) ? (
            <>
              <Link to="/together" className="btn btn-plain">
                The class together
              </Link>
              <Link to="/marking" className="btn btn-plain">
                Reports to mark
              </Link>
            </>
          ) : null}
          <Link to="/read-in" className="btn btn-plain">
            Import a results table
          </Link>
          <button type="button" className="btn" onClick={() => setMaking(true)}>
            New study
          </button>
        </div>
        {others.length || home.data.some((s) => s.archived) ? (
          <Lines lines={others} />
        ) : open ? null : (
          <p className="hair mt-3 pt-6 text-[1.2rem]">
            Nothing here yet. Start from a usual test, or begin with a new study: one question, one thing to change, one thing to measure.
          </p>
        )}
        <ThrownAway />
        <Leftover />
        <p className="mt-10">
          <Link to="/practice" className="btn btn-plain px-0">
            Practice for pupils
          </Link>{' '}
          <span className="text-quiet">on the wall or on a phone, without an account.</span>
        </p>
      </div>
      {keys ? (
        <Suspense>
          <KeySheet open onClose={() => setKeys(false)} timed words />
        </Suspense>
      ) : null}
      <NewStudy open={making} onClose={() => setMaking(false)} />
    </Frame>
  )
}

/** Whether a study's lesson is still to come, today included; a day that is past says nothing of the next one. */
const comes = (s: StudyLine): boolean => s.next_lesson !== null && s.next_lesson !== undefined && s.next_lesson >= today()

/** Today where the teacher is, as dates are kept. */
function today(): string {
  const now = new Date()
  return `${now.getFullYear()}-${String(now.getMonth() + 1).padStart(2, '0')}-${String(now.getDate()).padStart(2, '0')}`
}

/** The study that comes next, those of the same day, and the others: a lesson that comes before one that is past or has no day. */
function inTurn(lines: readonly StudyLine[]): { open: StudyLine | undefined; also: StudyLine[]; others: StudyLine[] } {
  const going = lines.filter((s) => !s.archived && s.readable && s.stage !== 'show')
  const open = going.find(comes) ?? going[0]
  const also = open && comes(open) ? going.filter((s) => s !== open && s.next_lesson === open.next_lesson) : []
  return { open, also, others: lines.filter((s) => s !== open && !also.includes(s)) }
}

const FROM = 8 // with more studies than this there is something to find among

/** The studies by class, found by a word; archived ones stay out of the way until they are asked for. */
function Lines({ lines }: { lines: StudyLine[] }) {
  const [find, setFind] = useState('')
  const [old, setOld] = useState(false)
  const words = find.toLowerCase().split(/\s+/).filter(Boolean)
  const shown = lines.filter((s) => s.archived === old && found(s, words))
  const classes = [...new Set(shown.map((s) => className(s)))].sort((a, b) => Number(!a) - Number(!b)) // those without a class last
  const elsewhere = words.length ? lines.filter((s) => s.archived !== old && found(s, words)).length : 0
  return (
    <>
      {lines.length > FROM || lines.some((s) => s.archived) ? (
        <div className="mt-2 flex flex-wrap items-end gap-x-6 gap-y-2">
          <div className="w-72">
            <Field label="Find">
              {(p) => <input {...p} className="field" value={find} placeholder="title, class, family" onChange={(e) => setFind(e.target.value)} />}
            </Field>
          </div>
          {old || lines.some((s) => s.archived) ? (
            <button type="button" className="btn btn-plain px-0" aria-pressed={old} onClick={() => setOld(!old)}>
              {old ? 'Back to the current ones' : `Archived (${lines.filter((s) => s.archived).length})`}
            </button>
          ) : null}
        </div>
      ) : null}
      {classes.map((name) => (
        <section key={name || 'none'} aria-label={name || 'Without a class'} className="mt-4">
          {classes.length > 1 || name ? <h3 className="m-0 text-[1.15rem] text-quiet">{name || 'Without a class'}</h3> : null}
          <ul className="m-0 list-none p-0">
            {shown
              .filter((s) => className(s) === name)
              .map((s) => (
                <Line key={s.id} s={s} />
              ))}
          </ul>
        </section>
      ))}
      {shown.length ? null : <p className="hair mt-3 pt-4">{words.length ? 'No study with these words.' : 'Nothing here.'}</p>}
      {elsewhere ? (
        <p className="mt-2" data-elsewhere>
          {elsewhere === 1 ? 'One with these words is' : `${elsewhere} with these words are`} {old ? 'among the current ones' : 'archived'}.{' '}
          <button type="button" className="btn btn-plain px-1" onClick={() => setOld(!old)}>
            Show {elsewhere === 1 ? 'it' : 'them'}
          </button>
        </p>
      ) : null}
    </>
  )
}

const found = (s: StudyLine, words: readonly string[]): boolean =>
  words.every((w) => `${s.title} ${s.question} ${s.class_label} ${s.year} ${s.family}`.toLowerCase().includes(w))
const className = (s: StudyLine): string => [s.class_label, s.year].filter(Boolean).join(', ')

/** What was deleted can be restored for thirty days. */
function ThrownAway() {
  const gone = useThrownAway().data ?? []
  if (!gone.length) return null
  return (
    <section aria-label="Deleted" className="mt-10" data-thrown-away>
      <h2 className="m-0 text-[1.3rem]">Deleted</h2>
      <ul className="m-0 list-none p-0">
        {gone.map((s) => (
          <li key={s.id} className="hair flex flex-wrap items-center gap-x-6 px-1 py-1">
            <span className="grow">{s.title}</span>
            <span className="text-quiet">gone for good on {new Date(s.until).toLocaleDateString('en-GB', { day: 'numeric', month: 'long' })}</span>
            <button type="button" className="btn btn-plain" onClick={() => void takeBack(s.id)}>
              Restore
            </button>
          </li>
        ))}
      </ul>
    </section>
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

/** A text as it is compared: a study that is called by its question does not say it twice. */
const said = (text: string) => text.trim().replace(/[?.]$/, '').toLowerCase()

function Next({ line }: { line: StudyLine }) {
  return (
    <section aria-labelledby="next-title">
      <p className="m-0 text-[1.05rem] font-semibold text-quiet">{comes(line) ? `Next lesson: ${dayWord(line.next_lesson)}` : 'Go on with'}</p>
      <h1 id="next-title" className="m-0 mt-1 text-[3.2rem] md:text-[4.4rem]">
        {line.title}
      </h1>
      {said(line.question) === said(line.title) ? null : <p className="m-0 mt-2 max-w-[46rem] text-[1.2rem]">{line.question}</p>}
      <Progress line={line} />
      <div className="mt-5 flex flex-wrap items-center gap-x-6 gap-y-3">
        <Link to={`/study/${line.id}/${PLACE[line.stage]}`} className="btn btn-act min-h-[64px] px-8 text-[1.25rem]">
          {line.next_act}
        </Link>
        <span className="text-[1.1rem]">{line.missing}</span>
        <More s={line} />
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
        {line.kept} of {line.planned} trials kept{line.void ? `, ${line.void} void` : ''}
        {line.extra ? `, ${line.extra} extra` : ''}
        {line.outside ? `, ${line.outside} outside the plan` : ''}
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
    <li className="hair flex items-center">
      <Link
        to={`/study/${s.id}/${PLACE[s.stage]}`}
        className="grid grow grid-cols-[1fr_auto] gap-x-6 gap-y-0.5 px-1 py-4 text-ink no-underline hover:bg-tape/25 md:grid-cols-[minmax(16rem,24rem)_7rem_1fr_auto]"
      >
        <span className="big text-[1.45rem]">{s.title}</span>
        <span className="self-center font-semibold">{STAGE[s.stage]}</span>
        <span className="col-span-2 self-center text-quiet md:col-span-1">
          {comes(s) ? `${dayWord(s.next_lesson)}: ` : ''}
          {s.missing || `${counted(s.kept, 'trial')} kept${s.void ? `, ${s.void} void` : ''}`}
        </span>
        <span className="hidden self-center font-semibold underline decoration-2 underline-offset-4 md:inline">{s.next_act}</span>
      </Link>
      <More s={s} />
    </li>
  )
}

/** What is done with a study as a whole: put out of the way, restored, deleted. */
function More({ s }: { s: StudyLine }) {
  const [open, setOpen] = useState(false)
  const [says, setSays] = useState('')
  const act = async (what: () => Promise<unknown>) => {
    try {
      await what()
      setOpen(false)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <>
      <button type="button" className="btn btn-plain min-w-[48px] px-2 text-[1.3rem]" aria-label={`More for ${s.title}`} onClick={() => setOpen(true)}>
        …
      </button>
      <Sheet open={open} onClose={() => setOpen(false)} title={s.title}>
        <div className="grid gap-3">
          <button type="button" className="btn" onClick={() => void act(() => patchLine(s, { archived: !s.archived }))}>
            {s.archived ? 'Restore from the archive' : 'Archive it'}
          </button>
          <button type="button" className="btn" onClick={() => void act(() => throwAway(s.id))}>
            Delete it
          </button>
          <p className="m-0 text-quiet">An archived study stays as it is, out of the way. A deleted one can be restored for thirty days.</p>
          {says ? <p className="m-0 font-semibold text-doubt">{says}</p> : null}
        </div>
      </Sheet>
    </>
  )
}

/** A plan in which nothing is said yet: the server fills in what has a default. */
const BLANK = {} as Draft

function NewStudy({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [title, setTitle] = useState('')
  const [id] = useState(() => uuid())
  const [says, setSays] = useState('')
  const go = useNavigate()
  const [file, setFile] = useState<File>()
  const make = async (stage: 'plan' | 'ask' = 'plan') => {
    try {
      const form = file ? await file.text().catch(() => Promise.reject(new Error('The file has changed since it was chosen. Choose it again.'))) : ''
      const study = await ask(
        file ? api.POST('/api/plans', { body: { id, title, text: form } }) : api.POST('/api/studies', { body: { id, title, draft: BLANK } }),
      )
      client.setQueryData(['study', study.id], study)
      void anew(['home'])
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
