import { lazy, type ReactNode, Suspense, useEffect, useState } from 'react'
import { Link, NavLink } from 'react-router'
import type { Study } from '../data/api'
import { may } from '../data/may'
import { useMe } from '../data/queries'
import { Sheet, Skeleton } from './parts'
import { WaitingNote } from './WaitingNote'

/** What a page does not need to be used is fetched when it is drawn. */
const Follow = lazy(async () => ({ default: (await import('./Follow')).Follow }))
const Settings = lazy(async () => ({ default: (await import('./Settings')).Settings }))

const STAGES = [
  { id: 'ask', label: 'Ask' },
  { id: 'plan', label: 'Plan' },
  { id: 'build', label: 'Build' },
  { id: 'run', label: 'Run' },
  { id: 'say', label: 'Say' },
  { id: 'work-out', label: 'Work out' },
  { id: 'show', label: 'Show' },
] as const

/** The frame of every page: where we are, the way through, what still waits to be sent. */
export function Frame({ study, children, title }: { study?: Study; children: ReactNode; title: string }) {
  const seat = useMe().data?.seat
  const stages = seat
    ? STAGES.filter((s) => (s.id === 'run' && may(seat.role, 'run own')) || ((s.id === 'build' || s.id === 'say') && may(seat.role, 'build own')))
    : STAGES.filter((s) => s.id !== 'say')
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
            <span className={study && !seat ? 'max-md:sr-only' : ''}>{seat ? seat.label : 'Bendro'}</span>
          </Link>
          {study ? (
            <p className="m-0 hidden min-w-0 max-w-full self-center truncate font-semibold md:block xl:shrink!" title={study.title}>
              {study.title}
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
  const [open, setOpen] = useState(false)
  return (
    <>
      <button type="button" className="btn btn-plain" onClick={() => setOpen(true)}>
        Settings
      </button>
      <Sheet open={open} onClose={() => setOpen(false)} title="Settings">
        <Suspense fallback={<Skeleton part />}>
          <Settings />
        </Suspense>
      </Sheet>
    </>
  )
}
