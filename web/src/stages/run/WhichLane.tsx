import { useEffect, useState } from 'react'
import type { Study, Turn } from '../../data/api'
import { useRota } from '../../data/queries'
import { clockAt, minutesSince } from '../../machines/clock'

/** Which lane this screen calls, and who sits there by the rota. */
export function WhichLane(given: { study: Study; lane: number; turn: Turn; onLane: (lane: number) => void }) {
  return (
    <>
      <LaneChoice {...given} />
      <SittingNow study={given.study} lane={given.lane} />
    </>
  )
}

/** Several lanes are open at once: this screen calls all of them, or one. */
function LaneChoice({ study, lane, turn, onLane }: { study: Study; lane: number; turn: Turn; onLane: (lane: number) => void }) {
  const lanes = Math.max(1, ...study.turns.map((t) => t.lane))
  if (lanes < 2 || turn.heat > 0) return null
  return (
    <fieldset className="m-0 mt-1 flex flex-wrap items-center gap-2 border-0 p-0">
      <legend className="sr-only">This screen calls</legend>
      <span className="text-quiet">Lane {turn.lane}. Call</span>
      {[0, ...Array.from({ length: lanes }, (_, i) => i + 1)].map((n) => (
        <button
          key={n}
          type="button"
          aria-pressed={lane === n}
          aria-label={n === 0 ? 'This screen calls all lanes' : `This screen calls lane ${n}`}
          className={`btn min-h-[44px] min-w-[44px] px-2.5 ${lane === n ? 'bg-tape text-tape-ink' : 'border-hair'}`}
          onClick={() => onLane(n)}
        >
          {n === 0 ? 'all' : n}
        </button>
      ))}
    </fieldset>
  )
}

/** Who sits at the lanes that this screen calls now by the rota, and until when; nothing outside the lesson. lane: 0 for all. */
function SittingNow({ study, lane }: { study: Study; lane: number }) {
  const made = useRota(study.id).data
  const [at, setAt] = useState(() => new Date())
  useEffect(() => {
    const timer = setInterval(() => setAt(new Date()), 10_000)
    return () => clearInterval(timer)
  }, [])
  if (!made || made.stale) return null
  const minute = minutesSince(made.start, at)
  const now = made.rota.sittings.filter((s) => s.what === 'test' && (lane === 0 || s.lane === lane) && s.start <= minute && minute < s.end)
  const first = now[0]
  if (!first) return null
  return (
    <p className="m-0 mt-1 text-[1.05rem]" data-sitting>
      By the rota: {now.map((s) => s.group).join(', ')} until <strong>{clockAt(made.start, first.end)}</strong>, {Math.max(1, Math.ceil(first.end - minute))}{' '}
      min left
    </p>
  )
}
