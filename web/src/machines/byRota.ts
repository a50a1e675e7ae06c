import type { Turn } from '../data/api'
import { turnKey } from './turns'

type Sitting = { group: string; what: string; start: number; lane?: number | null }

/** When and on which lane each turn is called by the rota: a group's turns are shared out over its visits to a lane, in their order. Empty where
 *  the rota does not seat every group of the plan. */
function seats(turns: readonly Turn[], sittings: readonly Sitting[]): Map<string, { start: number; lane: number }> {
  const found = new Map<string, { start: number; lane: number }>()
  for (const group of new Set(turns.map((t) => t.group))) {
    const visits = sittings.filter((s) => s.what === 'test' && s.group === group && s.lane).sort((a, b) => a.start - b.start)
    if (!visits.length) return new Map()
    const own = turns.filter((t) => t.group === group)
    const each = Math.ceil(own.length / visits.length)
    own.forEach((t, i) => {
      const at = visits[Math.min(visits.length - 1, Math.floor(i / each))]
      if (at) found.set(turnKey(t), { start: at.start, lane: at.lane ?? 1 })
    })
  }
  return found
}

/** Turns as the rota calls them: on its lanes, sitting after sitting; within a sitting they keep their order. As they are where there is no rota. */
export function byRota(left: readonly Turn[], turns: readonly Turn[], sittings: readonly Sitting[] | undefined): Turn[] {
  const at = sittings ? seats(turns, sittings) : new Map<string, { start: number; lane: number }>()
  if (!at.size) return [...left]
  const of = (t: Turn) => at.get(turnKey(t)) ?? { start: 0, lane: t.lane }
  return left.map((t) => ({ ...t, lane: of(t).lane })).sort((a, b) => of(a).start - of(b).start || a.lane - b.lane)
}
