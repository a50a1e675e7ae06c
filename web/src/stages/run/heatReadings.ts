import { v5 as namedBy, v4 as uuid } from 'uuid'
import type { HowTaken, ReadingGiven, Study, Turn } from '../../data/api'
import { labelOf } from '../../data/trials'
import { placesOf } from '../../machines/heat'
import { inSeconds } from '../../machines/stopwatch'

/** What an instrument saw of each lane. ms: from the release. */
export type Heard = Readonly<Record<number, { ms: number; text: string; taken: HowTaken; stamps: number[]; source: string }>>

/** Every screen that heard the same release calls its heat by the same name. */
export const heatId = (studyId: string, heard: Heard): string => {
  const one = Object.values(heard)[0]
  return one ? namedBy(`${one.source} ${one.stamps[0]}`, studyId) : uuid()
}

/** What each lane gives: the time from the release where time is read, and the place for every measure of order. */
export function readingsOf(study: Study, landed: Readonly<Record<number, number>>, from: number, heard: Heard): Record<number, ReadingGiven[]> {
  const places = placesOf(landed)
  return Object.fromEntries(
    Object.entries(landed).map(([lane, ms]) => {
      const seen = heard[Number(lane)]
      const own = seen && seen.ms === ms ? seen : null // pressed anew after it was taken back, it is a pressed one
      const stamps = own ? own.stamps : [from / 1000, (from + ms) / 1000]
      const given = study.draft.measures.flatMap((m, i): ReadingGiven[] => {
        const one = { measure: m.id, payload: 1, taken: own?.taken ?? ('lanes' as const), stamps, source: own?.source ?? '' }
        if (m.scale === 'order') return [{ ...one, texts: [places[Number(lane)] ?? ''], unit: '' }]
        return i === 0 && m.timed ? [{ ...one, texts: [own?.text ?? inSeconds(ms)], unit: own ? m.unit : 's' }] : []
      })
      return [lane, given]
    }),
  )
}

/** What was kept, the first to land first. */
export const heatSaid = (study: Study, turns: readonly Turn[], landed: Readonly<Record<number, number>>, heard: Heard): string =>
  [...turns]
    .sort((a, b) => (landed[a.lane] ?? 0) - (landed[b.lane] ?? 0))
    .map((t) => `${labelOf(study, t.level)} ${heard[t.lane]?.text ?? inSeconds(landed[t.lane] ?? 0)} s`)
    .join(', ')
