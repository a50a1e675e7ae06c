import { Suspense } from 'react'
import type { Family, Study, Turn } from '../../data/api'
import { labelOf, levelIndex } from '../../data/trials'
import { countFilled, countKept, type SeenTrial } from '../../machines/turns'
import { Shape } from '../../parts/parts'
import { soon } from '../../parts/soon'
import { glued } from '../../parts/glue'

const WhichLane = soon(async () => ({ default: (await import('./WhichLane')).WhichLane }))

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
      <Suspense fallback={Math.max(1, ...study.turns.map((t) => t.lane)) > 1 && turn.heat === 0 ? <div className="mt-1 h-[44px]" /> : null}>
        <WhichLane study={study} lane={lane} turn={turn} onLane={onLane} />
      </Suspense>
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
