import type { SeenTrial } from '../machines/turns'
import type { Draft, MeasureDraft, Study, Trial } from './api'
import { SCALES } from './scales.gen'

/** The first measure: it answers the question. */
export const firstOf = (draft: Draft): MeasureDraft => draft.measures[0] as MeasureDraft

type Readings = Pick<Trial, 'readings'>
export const readingOf = (trial: Readings, measure: string, payload = 1) => trial.readings.find((r) => r.measure === measure && r.payload === payload)
export const textsOf = (trial: Readings, measure: string, payload = 1): string[] => readingOf(trial, measure, payload)?.texts ?? []
export const behavioursOf = (trial: Readings): string[] => textsOf(trial, 'behaviour')
/** An identity that no measure of the plan has yet. */
export const freeId = (taken: readonly { id: string }[], letter = 'm'): string => {
  for (let n = 1; ; n++) if (!taken.some((m) => m.id === `${letter}${n}`)) return `${letter}${n}`
}

/** What the scale of a measure decides, as the core has it. */
export const scaleOf = (m: MeasureDraft) => SCALES[m.scale]
/** The unit that is said with a reading, '' for counts, words and places. */
export const unitSaid = (m: MeasureDraft): string => (scaleOf(m).number && m.unit !== 'count' ? m.unit : '')
/** The quantity of what is read, '' where it is a count, points or words. */
export const quantityOf = (m: MeasureDraft): string => (scaleOf(m).number && !scaleOf(m).whole ? m.quantity : '')
export const payloadsOf = (draft: Draft, m: MeasureDraft): string[] => (m.each_payload && (draft.payloads?.length ?? 0) > 1 ? (draft.payloads ?? []) : [''])

const bare = (text: string) => /^[\s\d.,+−-]+$/.test(text)
/** A reading as it was written, each text with the unit that stood beside the field. */
export const written = (r: { texts: readonly string[]; unit: string } | undefined): string =>
  (r?.texts ?? []).map((text) => (bare(text) && r?.unit && r.unit !== 'count' ? `${text} ${r.unit}` : text)).join(' / ') || '–'

/** What is written for a trial in short: its first measure, or all payloads of an outcome; on a rung with its height. */
export function firstWritten(study: Study, t: Pick<SeenTrial, 'readings' | 'rung'>): string {
  const first = firstOf(study.draft)
  const parts = t.readings.filter((r) => r.measure === first.id).map(written)
  return `${parts.join(', ') || '–'}${t.rung ? ` at ${withUnit(t.rung, study.draft.drop?.unit ?? 'm')}` : ''}`
}

export const withUnit = (text: string, unit: string): string => (/[a-z"'°]/i.test(text) || !unit || unit === 'count' ? text.trim() : `${text.trim()} ${unit}`)

/** One place to write on: a timer of the first measure, or a measure for one payload. name: under which its text is kept. */
export type Place = { name: string; measure: MeasureDraft; payload: number; payloadName: string; timer: number }

/** Every place of a trial in the order in which it is filled in: the first measure with its timers, then the others. */
export function placesOf(draft: Draft): Place[] {
  return draft.measures.flatMap((measure, at) =>
    payloadsOf(draft, measure).flatMap((payloadName, p) =>
      Array.from({ length: at === 0 ? (measure.timers ?? 1) : 1 }, (_, timer) => ({
        name: at === 0 && p === 0 ? String(timer) : `${measure.id}.${p + 1}.${timer}`,
        measure,
        payload: p + 1,
        payloadName,
        timer,
      })),
    ),
  )
}
