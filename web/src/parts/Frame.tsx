import { lazy, type ReactNode, Suspense, useEffect, useState } from 'react'
import { Link, NavLink } from 'react-router'
import { api, ask, Refusal, type Study } from '../data/api'
import { copiesClear } from '../data/keep'
import { client, useMe } from '../data/queries'
import { forgetPlans } from '../data/usePlan'
import { useQueue } from '../data/useQueue'
import { Field, Says, Sheet } from './parts'
import { WaitingNote } from './WaitingNote'
import { applyTheme, savedTheme, THEMES, type Theme } from './theme'

/** What a page does not need to be used is fetched when it is drawn. */
const Follow = lazy(async () => ({ default: (await import('./Follow')).Follow }))
const SchoolPart = lazy(async () => ({ default: (await import('./School')).SchoolPart }))

const STAGES = [
  { id: 'ask', label: 'Ask' },
  { id: 'plan', label: 'Plan' },
  { id: 'build', label: 'Build' },
  { id: 'run', label: 'Run' },
  { id: 'work-out', label: 'Work out' },
  { id: 'show', label: 'Show' },
] as const

/** The frame of every page: where we are, the way through, what still waits to be sent. */
export function Frame({ study, children, title }: { study?: Study; children: ReactNode; title: string }) {
  const seat = useMe().data?.seat
  const stages = seat ? STAGES.filter((s) => s.id === 'run' || (s.id === 'build' && seat.role === 'group')) : STAGES
  useEffect(() => {
    document.title = `${title} – Bendro`
  }, [title])
  return (
    <div className="flex min-h-dvh flex-col">
      {study ? (
        <Suspense fallback={null}>
          <Follow study={study.id} />
        </Suspense>
      ) : null}
      <a href="#main" className="sr-only focus:not-sr-only focus:absolute focus:left-2 focus:top-2 focus:z-10 focus:bg-tape focus:p-3 focus:text-tape-ink">
        Skip to content
      </a>
      <header className="no-print border-b-2 border-ink">
        {/* a long title is cut, so that the stages and what is below stay where they are */}
        <div className="flex flex-wrap items-stretch gap-x-6 px-4 md:px-8 xl:flex-nowrap xl:[&>*]:shrink-0">
          <Link
            to={seat ? `/study/${seat.study_id}/run` : '/'}
            className="big flex min-h-[48px] items-center text-[1.15rem] text-ink no-underline"
            aria-label={seat ? `Bendro, ${seat.label}` : 'Bendro, all studies'}
          >
            <svg width="26" height="26" viewBox="0 0 64 64" aria-hidden="true" className="mr-2">
              <rect y="30" width="64" height="24" fill="var(--tape)" />
              <path d="M6 30v14M20 30v9M34 30v14M48 30v9M60 30v14" stroke="var(--tape-ink)" strokeWidth="4" />
              <path d="M34 26l-9-16h18z" fill="var(--ink)" />
            </svg>
            <span className={study ? 'max-md:sr-only' : ''}>Bendro</span>
          </Link>
          {study ? (
            <p className="m-0 hidden min-w-0 max-w-full self-center truncate font-semibold md:block xl:shrink!" title={study.title}>
              {seat ? `${seat.label} · ${study.title}` : study.title}
            </p>
          ) : null}
          <WaitingNote />
          <span className="grow" />
          {study ? (
            <nav aria-label="Stages" className="order-last flex w-full gap-1 md:order-none md:w-auto">
              {stages.map((s) => (
                <NavLink
                  key={s.id}
                  to={`/study/${study.id}/${s.id}`}
                  className={({ isActive }) =>
                    `flex min-h-[48px] grow items-center justify-center px-2 font-semibold max-md:text-[0.95rem] md:px-4 no-underline md:grow-0 ${isActive ? 'border-b-[7px] border-tape pt-[7px] text-ink' : 'text-quiet'}`
                  }
                >
                  {s.label}
                </NavLink>
              ))}
            </nav>
          ) : null}
          <More />
        </div>
      </header>
      <main id="main" className="flex grow flex-col">
        {children}
      </main>
    </div>
  )
}

function More() {
  const me = useMe()
  const [open, setOpen] = useState(false)
  const [theme, setTheme] = useState<Theme>(savedTheme)
  const [says, setSays] = useState('')
  const { waiting } = useQueue()
  const leave = async () => {
    try {
      await ask(api.DELETE('/api/session'))
    } catch (why) {
      setSays(why instanceof Error ? why.message : 'Signing out did not work.')
      return
    }
    await copiesClear()
    forgetPlans()
    client.clear()
    location.assign(me.data?.seat ? '/join' : '/')
  }
  return (
    <>
      <button type="button" className="btn btn-plain" onClick={() => setOpen(true)}>
        Settings
      </button>
      <Sheet open={open} onClose={() => setOpen(false)} title="Settings">
        <fieldset className="m-0 border-0 p-0">
          <legend className="font-semibold">Light</legend>
          <div className="mt-2 flex gap-2">
            {THEMES.map((t) => (
              <label key={t.id} className={`btn grow cursor-pointer has-focus-visible:outline-3 ${theme === t.id ? 'bg-tape text-tape-ink' : ''}`}>
                <input
                  type="radio"
                  name="theme"
                  className="sr-only"
                  checked={theme === t.id}
                  onChange={() => {
                    setTheme(t.id)
                    applyTheme(t.id)
                  }}
                />
                {t.label}
              </label>
            ))}
          </div>
          <p className="mt-2 text-quiet">Day for a room, Sun for outdoors, Hall for a dim room with a projector.</p>
        </fieldset>
        <p className="hair mt-4 pt-4">
          {me.data?.seat ? 'Here as ' : 'Signed in as '}
          <strong>{me.data?.shown_name}</strong>
          {me.data?.seat ? '.' : `, ${me.data?.workspace}.`}
        </p>
        {waiting.length ? <p>{waiting.length} unsent entries stay in this browser until you sign in again.</p> : null}
        {me.data?.demo || me.data?.seat ? null : (
          <Suspense fallback={null}>
            <SchoolPart />
          </Suspense>
        )}
        {me.data?.demo || me.data?.seat ? null : <Password />}
        <button type="button" className="btn" onClick={() => void leave()}>
          {me.data?.seat ? 'Leave the lesson' : 'Sign out'}
        </button>
        {says ? <Says>{says}</Says> : null}
      </Sheet>
    </>
  )
}

/** A new password for whoever knows the present one; other devices are signed out. */
function Password() {
  const [now, setNow] = useState('')
  const [wanted, setWanted] = useState('')
  const [refusal, setRefusal] = useState<Refusal | null>(null)
  const [done, setDone] = useState(false)
  const change = async () => {
    setRefusal(null)
    setDone(false)
    try {
      await ask(api.PUT('/api/session/password', { body: { now, wanted } }))
      setNow('')
      setWanted('')
      setDone(true)
    } catch (why) {
      setRefusal(why instanceof Refusal ? why : new Refusal(String(why), 'unknown', 0))
    }
  }
  return (
    <details className="mb-4">
      <summary className="min-h-[48px] cursor-pointer content-center font-semibold">Change the password</summary>
      <form
        className="grid gap-4 pt-2"
        onSubmit={(e) => {
          e.preventDefault()
          void change()
        }}
      >
        <Field label="Present password" says={refusal?.where === 'now' ? refusal.message : undefined}>
          {(p) => (
            <input {...p} className="field" type="password" autoComplete="current-password" required value={now} onChange={(e) => setNow(e.target.value)} />
          )}
        </Field>
        <Field label="New password" hint="10 characters or more. Other devices are signed out." says={refusal?.where === 'now' ? undefined : refusal?.message}>
          {(p) => (
            <input {...p} className="field" type="password" autoComplete="new-password" required value={wanted} onChange={(e) => setWanted(e.target.value)} />
          )}
        </Field>
        <button type="submit" className="btn justify-self-start">
          Change it
        </button>
        <p className="m-0" role="status">
          {done ? 'The password is changed.' : ''}
        </p>
      </form>
    </details>
  )
}
