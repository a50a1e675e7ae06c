import { useEffect, useState } from 'react'
import { Link } from 'react-router'
import type { Family, Study, Turn } from '../../data/api'
import { firstOf } from '../../data/measures'
import { useAnalysis, useMe, useRota } from '../../data/queries'
import { labelOf, levelIndex } from '../../data/trials'
import { clockAt, minutesSince } from '../../machines/clock'
import { countFilled, countKept, type SeenTrial } from '../../machines/turns'
import { Shape } from '../../parts/parts'
import { Pressed } from './LaneButtons'
import { glued } from '../../parts/glue'

/** So many turns ahead are in sight: who is to make ready. */
const SHOWN_NEXT = 4

/** Whose turn it is and at which level; in a contest both are the device. */
const whoAndWhich = (study: Study, t: Turn): string => [...new Set([t.group, labelOf(study, t.level)])].filter(Boolean).join(', ')

/** What is next in large type: group, level, which trial; what was agreed is a press away. */
export function Who({
  study,
  turn,
  seen,
  next,
  taken,
  family,
  released,
  lane,
  onLane,
  onAgreed,
  onNow,
}: {
  study: Study
  turn: Turn
  seen: SeenTrial[]
  next: Turn | undefined
  taken: boolean
  family: Family
  released: string
  lane: number
  onLane: (lane: number) => void
  onAgreed: () => void
  onNow: () => void
}) {
  const n = Math.min(countFilled(study.turns, seen, turn.level) + 1, study.draft.repeats ?? 1)
  const at = levelIndex(study, turn.level)
  const practice = study.draft.practice ?? 0
  const seats = study.roles[(turn.block - 1) % Math.max(1, study.roles.length)] ?? []
  return (
    <section aria-label="Now on the lane" data-called={labelOf(study, turn.level)} data-trials={seen.length} className="px-4 pt-3 md:px-8 md:pt-7">
      <div className="flex items-end justify-between gap-4 md:block" aria-live="polite">
        <h1 className="big m-0 text-[2.9rem] md:text-[5.2rem]" style={{ fontStretch: '68%' }}>
          {glued(turn.group || 'Class')}
        </h1>
        <p className="m-0 pb-1 text-[1.1rem] text-quiet md:hidden">
          {n} of {study.draft.repeats}
        </p>
      </div>
      <p className="big m-0 mt-0 flex flex-wrap items-center gap-x-4 text-[1.9rem] md:mt-3 md:text-[2.9rem]">
        <Shape n={at} size={34} />
        {turn.group === labelOf(study, turn.level) ? <span className="sr-only">{turn.group}</span> : glued(labelOf(study, turn.level))}
        <span className="num w-full text-[1.15rem] font-normal text-quiet max-md:hidden" style={{ fontFamily: 'var(--font-text)', fontStretch: '100%' }}>
          trial {n} of {study.draft.repeats}
        </span>
      </p>
      <LaneChoice study={study} lane={lane} turn={turn} onLane={onLane} />
      <SittingNow study={study} lane={lane} />
      {released ? (
        <p className="m-0 mt-1 text-[1.05rem]">
          <button
            type="button"
            className="btn btn-plain min-h-[44px] px-0 text-left font-normal"
            title="Changed: write how it stands now"
            onClick={onNow}
            data-released
          >
            {glued(released)}
          </button>
        </p>
      ) : null}
      {taken ? (
        <p className="m-0 mt-1 font-semibold text-doubt" role="status" data-taken>
          This turn has been kept on another screen. Keep yours as well and it is a further trial; clear the field to go on.
        </p>
      ) : null}
      <p className="m-0 mt-1 flex items-center gap-x-3 text-quiet md:flex-col md:items-start lg:hidden">
        <span className="min-w-0 max-w-full grow truncate">{next ? `then ${glued(whoAndWhich(study, next))}` : 'the last one'}</span>
        <button type="button" className="btn btn-plain shrink-0 md:px-0" onClick={onAgreed}>
          What was agreed
        </button>
      </p>
      <p className="mt-5 mb-0 hidden text-[1.1rem] md:block">
        {study.draft.variable.name}: <strong>{labelOf(study, turn.level)}</strong>
        {next && next.level !== turn.level ? <> (then {labelOf(study, next.level)})</> : null}
      </p>
      {practice && countKept(seen) === 0 ? (
        <p className="m-0 mt-1 text-[1.02rem] md:mt-3" data-practice>
          First {practice === 1 ? 'one practice release' : `${practice} practice releases`} for each group.{' '}
          {practice === 1 ? 'It does not count' : 'They do not count'}: look for misfires and tangles.
        </p>
      ) : null}
      {family.reset.length ? (
        <p className="m-0 mt-1 text-[1.02rem] md:mt-3" data-reset>
          <span className="font-semibold">First:</span> {family.reset.join(', ')}.
        </p>
      ) : null}
      {seats.length > 1 ? (
        <p className="mb-0 mt-2 hidden text-[1.02rem] md:block" data-roles>
          {seats.map((does, i) => `Pupil ${i + 1}: ${does}`).join(' · ')}
        </p>
      ) : null}
      <p className="mb-0 mt-2 hidden text-quiet md:block">Is the lane clear?</p>
    </section>
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

/** What the plan agreed on, where it is needed: at the lane. brief: what must be in sight all the time. */
export function Agreed({ study, brief = false }: { study: Study; brief?: boolean }) {
  const { start_line, void_rule } = study.draft
  const measure = firstOf(study.draft)
  const rows: [string, string[]][] = [
    ['Limit', study.limits_said],
    ['Read', measure.rule && !brief ? [measure.rule] : []],
    ['Start line', start_line && !brief ? [start_line] : []],
    ['Void when', void_rule ? [void_rule] : []],
    ['Kept the same', brief ? [] : study.held_said.map((h) => `${h.name}: ${h.how}`)],
  ]
  return (
    <dl className="m-0 text-[0.98rem]" data-agreed>
      {rows.map(([name, lines]) =>
        lines.length ? (
          <div key={name} className="mb-2">
            <dt className="font-semibold text-quiet">{name}</dt>
            {lines.map((line) => (
              <dd key={line} className={`m-0 text-pretty ${name === 'Limit' ? 'font-bold' : ''}`}>
                {glued(line)}
              </dd>
            ))}
          </div>
        ) : null,
      )}
    </dl>
  )
}

export type Standing = { place: number; names: string[] }

export function Then({
  study,
  left,
  seen,
  places,
  onGo,
  onAgreed,
}: {
  study: Study
  left: Turn[]
  seen: SeenTrial[]
  places: readonly Standing[]
  onGo: (turn: Turn) => void
  onAgreed: () => void
}) {
  const seat = useMe().data?.seat
  const voided = study.levels.flatMap((l) => {
    const n = seen.filter((t) => t.state === 'void' && t.level === l.id).length
    return n ? [`${n} at ${l.label}`] : []
  })
  return (
    <section aria-label="Then" className="hidden px-8 pt-4 md:block lg:border-l-2 lg:border-hair lg:px-5 lg:pt-7">
      <div className="max-lg:hidden">
        <p className="m-0 font-semibold text-quiet">Then</p>
        {/* it keeps its height while the last turns go, so that what stands below it stays where it is */}
        <ol className="m-0 list-none p-0" style={{ minHeight: `${Math.min(SHOWN_NEXT, study.planned - 1) * 45}px` }}>
          {left.slice(0, SHOWN_NEXT).map((t, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a line is its place, so that nothing moves when one is done
            <li key={i} className="border-b border-hair">
              <button
                type="button"
                className="flex min-h-[44px] w-full cursor-pointer items-center gap-3 border-0 bg-transparent p-0 text-left text-ink"
                onClick={() => onGo(t)}
              >
                <Shape n={levelIndex(study, t.level)} size={18} />
                <span className="sr-only">Call now: </span>
                <span className="grow font-semibold">{glued(t.group || 'Class')}</span>
                {t.group === labelOf(study, t.level) ? null : <span className="big text-[1.05rem]">{glued(labelOf(study, t.level))}</span>}
              </button>
            </li>
          ))}
        </ol>
        {places.length ? (
          <div data-standings>
            <p className="m-0 mt-3 font-semibold text-quiet">Places so far</p>
            <ol className="m-0 list-none p-0">
              {places.map((p) => (
                <li key={p.names.join()} className="flex items-baseline gap-3 border-b border-hair py-1">
                  <span className="big w-8 text-[1.2rem]">
                    {p.place}
                    {p.names.length > 1 ? '=' : ''}
                  </span>
                  <span className="font-semibold">{p.names.join(', ')}</span>
                </li>
              ))}
            </ol>
          </div>
        ) : null}
        <p className="mb-0">
          {countFilled(study.turns, seen)} of {study.planned} kept{voided.length ? `; void: ${glued(voided.join(', '))}` : ''}
        </p>
        <p className="m-0 mb-2 flex flex-wrap gap-x-2">
          {seat ? null : (
            <Link to={`/study/${study.id}/trials`} className="btn btn-plain px-0 text-[0.95rem]">
              All trials
            </Link>
          )}
          <button type="button" className="btn btn-plain px-0 text-[0.95rem]" onClick={onAgreed}>
            What was agreed
          </button>
        </p>
      </div>
      {/* the limit and the void rule stay in sight on a tablet held upright as well, under who is called */}
      <Agreed study={study} brief />
    </section>
  )
}

export function Done({
  study,
  onUndo,
  said,
  lane,
  onLane,
  onMore,
  unbuilt = [],
}: {
  study: Study
  onUndo: () => void
  said: string
  lane: number
  onLane: (lane: number) => void
  onMore: ((turn: Turn) => void) | undefined
  /** Versions that are planned and not on the shelf yet. */
  unbuilt?: readonly string[]
}) {
  const verdict = useAnalysis(study.id).data?.verdict
  const seat = useMe().data?.seat
  return (
    <section className="px-4 pt-8 md:px-8">
      <h1 className="m-0 text-[3.6rem]">
        {unbuilt.length
          ? `${study.draft.variable.name.replace(/^./, (c) => c.toUpperCase())} ${unbuilt[0]} is not built yet`
          : lane
            ? `Lane ${lane} is done`
            : `All ${study.planned} trials are in`}
      </h1>
      {unbuilt.length ? (
        <p className="text-[1.15rem]">
          The lane calls what stands on the shelf. <Link to={`/study/${study.id}/build`}>Build it</Link>, and it is called.
        </p>
      ) : null}
      <p className="text-[1.15rem]" role="status">
        {said}
      </p>
      {/* its place is kept from the start, so that the buttons below do not move under a thumb when it comes */}
      {lane === 0 ? (
        <div className="mt-2 min-h-[6.2rem] max-w-[56rem]" role="status">
          {verdict && !verdict.so_far ? (
            <p className="big m-0 text-[1.9rem]" data-verdict>
              {glued(verdict.headline)}
            </p>
          ) : null}
        </div>
      ) : null}
      <div className="mt-4 flex flex-wrap gap-4">
        {lane ? (
          <button type="button" className="btn btn-act min-h-[64px] px-8 text-[1.25rem]" onClick={() => onLane(0)}>
            Call every lane
          </button>
        ) : seat ? null : (
          <Link to={`/study/${study.id}/work-out`} className="btn btn-act min-h-[64px] px-8 text-[1.25rem]">
            Read the verdict
          </Link>
        )}
        <button type="button" className="btn" onClick={onUndo}>
          Undo <Pressed>Z</Pressed>
        </button>
        {seat ? null : (
          <Link to={`/study/${study.id}/trials`} className="btn btn-plain">
            All trials
          </Link>
        )}
      </div>
      {onMore ? (
        <p className="mb-0 mt-6 flex flex-wrap items-center gap-2">
          <span className="text-quiet">One more trial beside the plan:</span>
          {study.levels.map((l, i) => {
            const turn = study.turns.findLast((t) => t.level === l.id)
            return turn ? (
              <button key={l.id} type="button" className="btn min-h-[48px] px-3" onClick={() => onMore(turn)}>
                <Shape n={i} size={16} /> {l.label}
              </button>
            ) : null
          })}
        </p>
      ) : null}
    </section>
  )
}
