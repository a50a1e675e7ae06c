import type { LevelSummary, Study } from '../data/api'
import { plainNumber, type SeenTrial } from '../machines/turns'
import type { TapeMark } from './geometry'
import type { TapeLevel } from './Tape'

/** The marks of one level: the server's reading, or for what still waits the plain number that was typed. */
export function marksOf(trials: readonly SeenTrial[], level: string, unit: string, fresh?: string): TapeMark[] {
  return trials.flatMap((t): TapeMark[] => {
    if (t.level !== level || t.place === 'outside') return []
    const value = t.reading?.value ?? (t.texts.length === 1 && t.unit === unit ? plainNumber(t.texts[0]) : null)
    if (value === null || value === undefined) return []
    return [{ id: t.id, value, kind: t.state === 'void' ? 'void' : (t.reading?.kind ?? 'exact'), fresh: t.id === fresh, resolution: t.reading?.resolution }]
  })
}

export function tapeLevels(study: Study, trials: readonly SeenTrial[], now?: string, fresh?: string): TapeLevel[] {
  return study.levels.map((l, i) => ({ label: l.label, shape: i, marks: marksOf(trials, l.text, study.draft.measure.unit ?? '', fresh), now: l.text === now }))
}

/** What the flag of a level stands at: its result by the school of the plan. A total lies off the tape, so the mean stands in. */
export const flagWord = (study: Study): string => (study.draft.result === 'total' ? 'mean' : (study.draft.result ?? 'mean'))
export function flagOf(s: LevelSummary, study: Study): { mean: number | null | undefined; meanText: string | undefined } {
  const total = study.draft.result === 'total'
  return { mean: total ? s.mean : (s.result ?? s.mean), meanText: (total ? s.shown?.mean : s.shown?.result) ?? '' }
}
