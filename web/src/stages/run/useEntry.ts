import { useEffect, useState } from 'react'
import { api, ask, type Draft, type MeasureDraft, type Reading, type ReadingGiven, Refusal, type Study } from '../../data/api'
import { typed } from '../../data/keep'
import { firstOf, isNumber, payloadsOf } from '../../data/measures'
import { plainNumber } from '../../machines/turns'

/** Where one text of a turn lies in the browser. */
export const entryKey = (studyId: string, turn: string, name: string): string => `run:${studyId}:${turn}:${name}`

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

export const BEHAVIOUR = 'behaviour'
const BETWEEN = '; '
export type Texts = Record<string, string>

/** The texts of the trial in hand, kept in the browser at every key. */
export function useEntry(studyId: string, turn: string, draft: Draft) {
  const places = placesOf(draft)
  const names = [...places.map((p) => p.name), BEHAVIOUR]
  const key = (name: string) => entryKey(studyId, turn, name)
  const load = (): Texts => Object.fromEntries(names.map((n) => [n, typed.get(key(n))]))
  const [texts, setTexts] = useState(load)
  const [of, setOf] = useState(`${turn} ${names.join()}`)
  if (of !== `${turn} ${names.join()}`) {
    setOf(`${turn} ${names.join()}`)
    setTexts(load())
  }
  const setText = (name: string, text: string) => {
    typed.set(key(name), text)
    setTexts((e) => ({ ...e, [name]: text }))
  }
  const behaviours = (texts[BEHAVIOUR] ?? '').split(BETWEEN).filter(Boolean)
  const toggleBehaviour = (word: string) =>
    setText(BEHAVIOUR, (behaviours.includes(word) ? behaviours.filter((w) => w !== word) : [...behaviours, word]).join(BETWEEN))
  const clear = () => {
    for (const n of names) typed.set(key(n), '')
    setTexts(Object.fromEntries(names.map((n) => [n, ''])))
  }
  return { places, texts, setText, behaviours, toggleBehaviour, clear }
}

/** What is written as the readings of a trial: one for each measure and payload, the timers together. */
export function readingsOf(places: readonly Place[], texts: Texts, stamps: readonly number[] = []): ReadingGiven[] {
  const made = new Map<string, ReadingGiven>()
  for (const p of places) {
    const text = (texts[p.name] ?? '').trim()
    if (!text) continue
    const key = `${p.measure.id}.${p.payload}`
    const known = made.get(key)
    const pressed = stamps.length === 2 && p.name === '0'
    made.set(key, {
      measure: p.measure.id,
      payload: p.payload,
      texts: [...(known?.texts ?? []), text],
      unit: isNumber(p.measure) ? p.measure.unit : '',
      taken: pressed || known?.taken === 'pressed' ? 'pressed' : 'typed',
      stamps: pressed ? [...stamps] : (known?.stamps ?? []),
    })
  }
  const words = (texts[BEHAVIOUR] ?? '').split(BETWEEN).filter(Boolean)
  return [...made.values(), ...(words.length ? [{ measure: BEHAVIOUR, payload: 1, texts: words, unit: '', taken: 'typed' as const, stamps: [] }] : [])]
}

/** Put the readings of a trial back for a turn, as undo does. */
export function putBack(
  studyId: string,
  turn: string,
  draft: Draft,
  readings: readonly { measure: string; payload: number; texts: readonly string[] }[],
): void {
  for (const p of placesOf(draft)) {
    const r = readings.find((x) => x.measure === p.measure.id && x.payload === p.payload)
    typed.set(entryKey(studyId, turn, p.name), r?.texts[p.timer] ?? '')
  }
  typed.set(entryKey(studyId, turn, BEHAVIOUR), (readings.find((r) => r.measure === BEHAVIOUR)?.texts ?? []).join(BETWEEN))
}

export type Echo = { state: 'none' } | { state: 'read'; reading: Reading; asks: string | null } | { state: 'refused'; says: string } | { state: 'unasked' }

/** How what is written is understood in this study, and what is asked about it first; `unasked` when the server cannot be reached.
 *  unit: in which it was written, where that is not the measure's own. */
export async function look(study: Study, measure: MeasureDraft, texts: readonly string[], besides?: string, unit = measure.unit): Promise<Echo> {
  if (texts.every((t) => !t.trim())) return { state: 'none' }
  try {
    const body = {
      measure: measure.id,
      payload: 1,
      texts: [...texts],
      unit: isNumber(measure) ? unit : '',
      taken: 'typed' as const,
      stamps: [],
      besides: besides ?? null,
    }
    const found = await ask(
      api.POST('/api/studies/{study_id}/readings', { params: { path: { study_id: study.id } }, body, signal: AbortSignal.timeout(3_000) }),
    )
    return found.reading ? { state: 'read', reading: found.reading, asks: found.asks } : { state: 'none' }
  } catch (why) {
    if (why instanceof Refusal && !why.away) return { state: 'refused', says: why.message }
    return { state: 'unasked' }
  }
}

/** A plain number is kept without asking the server while it is not out of line with the others (the bounds come with the study). */
export const inLine = (study: Study, measure: MeasureDraft, text: string): boolean => {
  const value = plainNumber(text)
  const usual = study.usual[measure.id] as [number, number] | undefined
  return value !== null && usual !== undefined && value >= usual[0] && value <= usual[1]
}

/** The echo of what is typed, a moment after the last key: how it is read, and for several timers what they give together. */
export function useEcho(study: Study, measure: MeasureDraft, texts: readonly string[]): Echo {
  const text = texts.join('\n')
  const [echo, setEcho] = useState<Echo>({ state: 'none' })
  useEffect(() => {
    let live = true
    const written = text.split('\n').filter((t) => t.trim())
    const first = measure.id === firstOf(study.draft).id
    if (
      !written.length ||
      measure.scale === 'outcome' ||
      (written.length === 1 && plainNumber(written[0]) !== null && (!first || inLine(study, measure, written[0] ?? '')))
    ) {
      setEcho({ state: 'none' })
      return
    }
    const timer = setTimeout(async () => {
      const found = await look(study, measure, written)
      if (live) setEcho(found)
    }, 250)
    return () => {
      live = false
      clearTimeout(timer)
    }
  }, [text, measure, study])
  return echo
}
