import { Link } from 'react-router'
import type { Study, Turn } from '../../data/api'
import { useMay } from '../../data/may'
import { labelOf, levelIndex } from '../../data/trials'
import { countFilled, type SeenTrial } from '../../machines/turns'
import { glued } from '../../parts/glue'
import { Shape } from '../../parts/parts'
import { Agreed } from './Agreed'

export type Standing = { place: number; names: string[] }
/** So many turns ahead are in sight: who is to make ready. */
const SHOWN_NEXT = 4

/** Who comes then, the places so far, and what must be in sight all the time. */
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
  const may = useMay()
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
          {!may('lead') ? null : (
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
