import type { LevelSummary, Study } from '../data/api'
import { firstOf, readingOf, scaleOf } from '../data/measures'
import { levelIndex } from '../data/trials'
import { plainNumber, type SeenTrial } from '../machines/turns'
import type { TapeMark } from './geometry'
import type { TapeLevel } from './Tape'

/** What is drawn of a trial for a response: what the core says that it gives, or for what still waits the plain number typed. */
function markOf(t: SeenTrial, response: string, unit: string): { value: number; kind: TapeMark['kind']; resolution?: number | undefined } | null {
  const given = t.given.find((g) => g.id === response)
  if (given) return given.value === null ? null : { value: given.value, kind: given.kind }
  const worked = t.derived.find((d) => d.id === response)
  if (worked) return worked.value === null ? null : { value: worked.value, kind: 'exact' }
  return readOf(t, response, unit)
}

function readOf(t: SeenTrial, measure: string, unit: string): { value: number; kind: TapeMark['kind']; resolution?: number | undefined } | null {
  const r = readingOf(t, measure)
  const value = r?.reading?.value ?? (r && r.texts.length === 1 && r.unit === unit ? plainNumber(r.texts[0]) : null)
  return value === null || value === undefined ? null : { value, kind: r?.reading?.kind ?? 'exact', resolution: r?.reading?.resolution }
}

/** The marks of some trials on the tape of one response. */
export function marksOf(trials: readonly SeenTrial[], response: string, unit: string, fresh?: string, of = markOf): TapeMark[] {
  return trials.flatMap((t): TapeMark[] => {
    const found = t.place === 'outside' || t.practice ? null : of(t, response, unit)
    return found ? [{ id: t.id, ...found, kind: t.state === 'void' ? 'void' : found.kind, fresh: t.id === fresh }] : []
  })
}

/** Each level with its marks: of a response, or without one of the first measure as it is read, so that a landing lies where it fell. */
export function tapeLevels(study: Study, trials: readonly SeenTrial[], now?: string, fresh?: string, response?: string, unit?: string): TapeLevel[] {
  const first = firstOf(study.draft)
  return study.levels.map((l, i) => ({
    label: l.label,
    shape: i,
    marks: marksOf(
      trials.filter((t) => t.level === l.id),
      response ?? first.id,
      unit ?? first.unit,
      fresh,
      response === undefined && scaleOf(first).scored ? readOf : markOf,
    ),
    now: l.id === now,
  }))
}

/** What a response is drawn in: a zone measure is judged by its points. */
export const unitOf = (study: Study, response: string): string => {
  const one = study.responses.find((r) => r.id === response)
  return one?.scored ? 'points' : (one?.unit ?? '')
}

/** The bands of the first measure on its tape, each once both of its ends are numbers. */
export function bandsOf(study: Study): { from: number; to: number; text: string }[] {
  const first = firstOf(study.draft)
  const { zones, unit } = first
  const bare = (text = '') => (unit && text.trim().endsWith(unit) ? text.trim().slice(0, -unit.length) : text)
  return !scaleOf(first).scored
    ? []
    : zones.flatMap((z) => {
        const [from, to] = [plainNumber(bare(z.start)), plainNumber(bare(z.end))]
        return from === null || to === null ? [] : [{ from, to, text: String(z.points ?? 0) }]
      })
}

/** What the flag of a level stands at: its result by the school of the plan. A total lies off the tape, so the mean stands in. */
export const flagWord = (study: Study): string => (study.draft.result === 'total' ? 'mean' : (study.draft.result ?? 'mean'))
export function flagOf(s: LevelSummary, study: Study): { mean: number | null | undefined; meanText: string | undefined } {
  const total = study.draft.result === 'total'
  return { mean: total ? s.mean : (s.result ?? s.mean), meanText: (total ? s.shown?.mean : s.shown?.result) ?? '' }
}

/** The kept trials of each heat, in the order of the levels: a line joins what was let go together. */
export function letGoTogether(study: Study, seen: readonly SeenTrial[]): string[][] {
  const heats = new Map<string, SeenTrial[]>()
  for (const t of seen) if (t.heat && t.state === 'kept') heats.set(t.heat, [...(heats.get(t.heat) ?? []), t])
  return [...heats.values()].map((h) => h.sort((a, b) => levelIndex(study, a.level) - levelIndex(study, b.level)).map((t) => t.id))
}
