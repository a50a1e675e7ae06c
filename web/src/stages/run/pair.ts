import type { Study } from '../../data/api'
import type { Place } from '../../data/measures'
import { scaleOf } from '../../data/measures'

/** Along the line and off it, where a plan reads both: a landing can then be pointed at. */
export type Pair = { along: Place; off: Place }

export function pairOf(study: Study, places: readonly Place[]): Pair | null {
  const first = places[0]
  const off = places.find((p) => p.measure.signed && p.measure.quantity === 'length' && scaleOf(p.measure).number && p !== first)
  return first && off && first.measure.quantity === 'length' && scaleOf(first.measure).number && !first.measure.signed && study.draft.measures.length > 1
    ? { along: first, off }
    : null
}
