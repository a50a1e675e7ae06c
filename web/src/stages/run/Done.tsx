import { Link } from 'react-router'
import type { Study, Turn } from '../../data/api'
import { useMay } from '../../data/may'
import { useAnalysis } from '../../data/queries'
import { glued } from '../../parts/glue'
import { Shape } from '../../parts/parts'
import { Pressed } from './LaneButtons'

/** Nothing is left to call: what was found, and what can be done now. */
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
  const may = useMay()
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
        ) : !may('lead') ? null : (
          <Link to={`/study/${study.id}/work-out`} className="btn btn-act min-h-[64px] px-8 text-[1.25rem]">
            Read the verdict
          </Link>
        )}
        <button type="button" className="btn" onClick={onUndo}>
          Undo <Pressed>Z</Pressed>
        </button>
        {!may('lead') ? null : (
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
