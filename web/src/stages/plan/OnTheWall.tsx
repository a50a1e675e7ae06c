import { useEffect, useState } from 'react'
import type { RotaMade, Study } from '../../data/api'
import { clockAt, minutesSince } from '../../machines/clock'
import { laneAt, nextOnLane, RotaChart } from './RotaChart'

/** The lesson on the projector: the time, who is on which lane now and until when, who is next. Escape closes it. */
export function OnTheWall({ study, made, onClose }: { study: Study; made: RotaMade; onClose: () => void }) {
  const [now, setNow] = useState(() => new Date())
  useEffect(() => {
    const tick = setInterval(() => setNow(new Date()), 1000)
    const hear = (e: KeyboardEvent) => (e.key === 'Escape' ? onClose() : undefined)
    window.addEventListener('keydown', hear)
    return () => {
      clearInterval(tick)
      window.removeEventListener('keydown', hear)
    }
  }, [onClose])
  const minute = minutesSince(made.start, now)
  const lanes = [...new Set(made.rota.sittings.flatMap((s) => (s.lane ? [s.lane] : [])))].sort((a, b) => a - b)
  const left = made.lesson.minutes - minute
  return (
    <main className="flex min-h-dvh flex-col gap-6 px-6 py-5 md:px-10">
      <div className="flex flex-wrap items-baseline gap-x-8">
        <h1 className="big m-0 text-[2rem]">{study.title}</h1>
        <span className="grow" />
        <p className="big m-0 text-[4.4rem] leading-none" role="timer" aria-label="The time now">
          {String(now.getHours()).padStart(2, '0')}:{String(now.getMinutes()).padStart(2, '0')}
        </p>
        <button type="button" className="btn btn-plain no-print" onClick={onClose}>
          Back
        </button>
      </div>
      {made.stale ? (
        <p className="m-0 border-l-[8px] border-doubt pl-4 text-[1.5rem] font-bold text-doubt" data-stale>
          The plan has changed since this rota was made.
        </p>
      ) : null}
      {made.rota.closed ? <p className="m-0 text-[1.5rem]">{made.rota.closed}</p> : null}
      <p className="m-0 text-[1.5rem]">{minute < 0 ? `Begins at ${made.start}.` : left < 0 ? 'The lesson is over.' : `${Math.ceil(left)} min to the bell.`}</p>
      <div className="grid gap-6" style={{ gridTemplateColumns: `repeat(auto-fit, minmax(17rem, 1fr))` }}>
        {lanes.map((lane) => {
          const here = laneAt(made, lane, minute)
          const next = nextOnLane(made, lane, minute)
          return (
            <section key={lane} aria-label={`Lane ${lane}`} className="border-t-[8px] border-tape pt-2">
              <p className="m-0 text-[1.2rem] text-quiet">Lane {lane}</p>
              <p className="big m-0 text-[3.8rem] leading-none">{here ? here.group : 'free'}</p>
              <p className="m-0 mt-1 text-[1.4rem]">
                {here ? `until ${clockAt(made.start, here.end)}` : ''}
                {next ? `${here ? ', then ' : ''}${next.group} at ${clockAt(made.start, next.start)}` : ''}
              </p>
            </section>
          )
        })}
      </div>
      <RotaChart made={made} now={minute} large />
    </main>
  )
}
