import { v5 as namedBy, v4 as uuid } from 'uuid'
import type { HowTaken, MeasureDraft, ReadingGiven, Study, Turn } from '../../data/api'
import { quantityOf, scaleOf } from '../../data/measures'
import { labelOf } from '../../data/trials'
import { inSeconds, placesOf } from '../../machines/trialRun'

/** What an instrument saw of each lane. ms: from the release. */
export type Heard = Readonly<Record<number, { ms: number; text: string; taken: HowTaken; stamps: number[]; source: string; clock_s?: number }>>

/** Every screen that heard the same release calls its heat by the same name. */
export const heatId = (studyId: string, heard: Heard): string => {
  const one = Object.values(heard).find((h) => h.stamps.length && h.source)
  return one ? namedBy(`${one.source} ${one.stamps[0]}`, studyId) : uuid()
}

/** Whether a measure is the time from the release to the landing. */
const isTimed = (m: MeasureDraft) => Boolean(m.timed) && quantityOf(m) === 'time'

/** What each lane gives: the time from the release for every measure that is timed, and the place for every measure of order. */
export function readingsOf(study: Study, landed: Readonly<Record<number, number>>, from: number, heard: Heard): Record<number, ReadingGiven[]> {
  const places = placesOf(landed)
  return Object.fromEntries(
    Object.entries(landed).map(([lane, ms]) => {
      const seen = heard[Number(lane)]
      const own = seen && seen.ms === ms ? seen : null // pressed anew after it was taken back, it is a pressed one
      const stamps = own ? own.stamps : [from / 1000, (from + ms) / 1000]
      const given = study.draft.measures.flatMap((m): ReadingGiven[] => {
        const one = { measure: m.id, payload: 1, taken: own?.taken ?? ('lanes' as const), stamps, source: own?.source ?? '', clock_s: own?.clock_s ?? 0 }
        if (scaleOf(m).shape === 'places') return [{ ...one, texts: [places[Number(lane)] ?? ''], unit: '' }]
        return isTimed(m) ? [{ ...one, texts: [own?.text ?? inSeconds(ms)], unit: own ? m.unit : 's' }] : []
      })
      return [lane, given]
    }),
  )
}

/** What was kept, the first to land first: its time where the plan measures one, else its place. */
export const heatSaid = (study: Study, turns: readonly Turn[], landed: Readonly<Record<number, number>>, heard: Heard): string =>
  [...turns]
    .sort((a, b) => (landed[a.lane] ?? 0) - (landed[b.lane] ?? 0))
    .map((t) =>
      study.draft.measures.some(isTimed)
        ? `${labelOf(study, t.level)} ${(heard[t.lane]?.text ?? inSeconds(landed[t.lane] ?? 0)).replace(/ s$/, '')} s`
        : `${labelOf(study, t.level)} ${placesOf(landed)[t.lane] ?? ''}`,
    )
    .join(', ')
