import type { Trial, Turn } from '../data/api'

/** A trial as the screen knows it: the server's, or one that waits in the browser. */
export type SeenTrial = Trial & { saved: 'yes' | 'waiting' | 'refused'; says?: string; fills?: boolean }

type Place = Pick<Turn, 'block' | 'level'> & Partial<Pick<Turn, 'sitting'>>

/** How a turn is known: by its block and its level. */
export const turnKey = (t: { block: number; level: string }) => `${t.block}:${t.level}`

/** What remains to be run, in order, while the server may be away: the rule of core/planning/stock.py, held to it by shared cases
 *  (tests/drift/turn_cases.json). A turn is done when a trial of its block and level is kept; one that was void comes again at the
 *  end of its sitting or its block; a practice, a trial outside the plan, and a drop that leads to the next rung fill nothing. */
export function remaining<T extends Place>(turns: readonly T[], trials: readonly SeenTrial[]): T[] {
  const kept = new Set<string>()
  const voided = new Map<string, number>()
  for (const t of trials) {
    if (t.place === 'outside' || t.practice) continue
    const key = turnKey(t)
    if (t.state === 'kept' && t.fills !== false) kept.add(key)
    else if (t.state === 'void') voided.set(key, (voided.get(key) ?? 0) + 1)
  }
  const left = turns.filter((t) => !kept.has(turnKey(t)))
  // Within a planned order by blocks, or a rota's by sittings, a voided turn waits until the rest of its own is done.
  return left
    .map((turn, at) => ({ turn, at, again: voided.get(turnKey(turn)) ?? 0 }))
    .sort((a, b) => blockOf(a.turn, turns) - blockOf(b.turn, turns) || a.again - b.again || a.at - b.at)
    .map((x) => x.turn)
}

/** The place of a turn's sitting or block in the order; with other orders there is one for all. */
function blockOf(turn: Place, turns: readonly Place[]): number {
  if (turn.sitting) return turn.sitting
  const inBlocks = turns.every((t, i) => i === 0 || t.block >= (turns[i - 1]?.block ?? 0))
  return inBlocks ? turn.block : 0
}

export const countKept = (trials: readonly SeenTrial[], level?: string): number =>
  trials.filter((t) => t.state === 'kept' && t.place !== 'outside' && !t.practice && (level === undefined || t.level === level)).length

/** Turns of the plan that a kept trial fills: of one level, or of all. A further trial of the same turn fills nothing. */
export const countFilled = (turns: readonly Place[], trials: readonly SeenTrial[], level?: string): number => {
  const left = new Set(remaining(turns, trials).map(turnKey))
  return turns.filter((t) => (level === undefined || t.level === level) && !left.has(turnKey(t))).length
}

/** Only a plain number in the measure's own unit is drawn before the server has read it; nothing is converted here. */
export function plainNumber(text: string | undefined): number | null {
  const m = /^\s*(-|−)?(\d+(?:[.,]\d+)?)\s*$/.exec(text ?? '')
  if (!m?.[2]) return null
  if (/^[1-9]\d{0,2},\d{3}$/.test(m[2])) return null
  return Number(m[2].replace(',', '.')) * (m[1] ? -1 : 1)
}
