import type { Study } from '../../data/api'
import { plainNumber, type SeenTrial } from '../../machines/turns'
import type { TapeMark } from '../../tape/geometry'
import type { TapeLevel } from '../../tape/Tape'

/** The marks of one level: the server's reading, or for what still waits the plain number that was typed. */
export function marksOf(trials: readonly SeenTrial[], level: string, fresh?: string): TapeMark[] {
  return trials.flatMap((t): TapeMark[] => {
    if (t.level !== level) return []
    const value = t.reading?.value ?? (t.texts.length === 1 ? plainNumber(t.texts[0]) : null)
    if (value === null || value === undefined) return []
    return [{ id: t.id, value, kind: t.state === 'void' ? 'void' : (t.reading?.kind ?? 'exact'), fresh: t.id === fresh }]
  })
}

export function tapeLevels(study: Study, trials: readonly SeenTrial[], now?: string, fresh?: string): TapeLevel[] {
  return study.levels.map((l, i) => ({ label: l.label, shape: i, marks: marksOf(trials, l.text, fresh), now: l.text === now }))
}
