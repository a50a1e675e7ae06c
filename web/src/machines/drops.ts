import type { Study } from '../data/api'
import type { SeenTrial } from './turns'
import { plainNumber } from './turns'

/** A drop of one specimen: its rung and whether it survived by the agreed line. */
export type Drop = { height: number; survived: boolean }

/** Whether no drop is left for a specimen: on a ladder once it failed or stood on the top rung; where every rung is run, once it was dropped
 *  from each. The rule of core/measuring/drops.py, for while the
 *  server is away; held to it by shared cases (tests/drift/drop_cases.json). */
export const over = (drops: readonly Drop[], rungs: readonly number[], every: boolean): boolean => {
  if (every) return rungs.every((r) => drops.some((d) => d.height === r))
  const top = Math.max(...rungs)
  return drops.some((d) => !d.survived) || (rungs.length > 0 && drops.some((d) => d.survived && d.height >= top))
}

/** The rung that comes next: the lowest not yet tried, on a ladder above what was survived; null when it is over. */
export function nextRung(drops: readonly Drop[], rungs: readonly number[], every: boolean): number | null {
  if (over(drops, rungs, every)) return null
  const above = Math.max(Number.NEGATIVE_INFINITY, ...drops.filter((d) => d.survived && !every).map((d) => d.height))
  return [...rungs].sort((a, b) => a - b).find((r) => r > above && !drops.some((d) => d.height === r)) ?? null
}

/** Whether every specimen of a study is dropped from every rung, failed or not. */
export const everyRung = (study: Study): boolean => study.rungs.length > 0 && study.draft.drop?.plan === 'rungs'

/** The drops of one turn's specimen so far, in the order of release. */
export function dropsOf(study: Study, seen: readonly SeenTrial[], turn: { block: number; level: string }): Drop[] {
  const first = study.draft.measures[0]
  if (!first) return []
  return seen.flatMap((t) => {
    if (t.state !== 'kept' || t.practice || t.place === 'outside' || t.block !== turn.block || t.level !== turn.level) return []
    const at = t.readings
      .filter((r) => r.measure === first.id)
      .map((r) => first.words.findIndex((w) => w.trim().toLowerCase() === r.texts[0]?.trim().toLowerCase()))
    const height = plainNumber(t.rung)
    // a specimen survived when each of its payloads did
    return !at.length || at.some((n) => n < 0) || height === null ? [] : [{ height, survived: Math.max(...at) < first.survived }]
  })
}

/** The trials that fill their turn: on rungs only the drop after which none is left; else every kept one. */
export function fillers(study: Study, seen: readonly SeenTrial[]): SeenTrial[] {
  if (study.rungs.length === 0) return seen as SeenTrial[]
  return seen.map((t, i) => ({ ...t, fills: t.state !== 'kept' || over(dropsOf(study, seen.slice(0, i + 1), t), study.rungs, everyRung(study)) }))
}
