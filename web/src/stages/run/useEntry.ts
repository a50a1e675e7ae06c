import { useEffect, useState } from 'react'
import { api, ask, type Draft, type HowTaken, type MeasureDraft, type Question, type Reading, type ReadingGiven, Refusal, type Study } from '../../data/api'
import { typed } from '../../data/keep'
import { type Place, placesOf, scaleOf } from '../../data/measures'
import { plainNumber } from '../../machines/turns'
import type { OfPhones } from './phonesGave'

/** Where one text of a turn lies in the browser. */
export const entryKey = (studyId: string, turn: string, name: string): string => `run:${studyId}:${turn}:${name}`

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

/** How a reading was taken, where it was not typed: with the stamps of its marks, and whose timer or which instrument. */
export type HowFirst = { taken: HowTaken; stamps: readonly number[]; source: string; text: string; doubt?: string; clock_s?: number }

/** The same for every place that was not typed, by its name. */
export type Hows = Readonly<Record<string, HowFirst>>

/** What is written as the readings of a trial: one for each measure and payload, the timers together. */
export function readingsOf(places: readonly Place[], texts: Texts, hows: Hows = {}, phones: OfPhones = {}): ReadingGiven[] {
  const made = new Map<string, ReadingGiven>()
  for (const p of places) {
    const text = (texts[p.name] ?? '').trim()
    if (!text) continue
    const key = `${p.measure.id}.${p.payload}`
    const known = made.get(key)
    // typed over, a reading that was pressed or marked is a typed one
    const how = hows[p.name]
    const own = how && how.text === text ? how : null
    made.set(key, {
      measure: p.measure.id,
      payload: p.payload,
      texts: [...(known?.texts ?? []), text],
      unit: scaleOf(p.measure).number ? p.measure.unit : '',
      taken: own?.taken ?? known?.taken ?? 'typed',
      stamps: own ? [...own.stamps] : (known?.stamps ?? []),
      source: own?.source ?? known?.source ?? '',
      clock_s: own?.clock_s ?? known?.clock_s ?? 0,
    })
    const phone = phones[p.name]
    const one = made.get(key)
    if (phone?.text === text && one) {
      const whose = [one.source, phone.label].filter(Boolean).join(', ').slice(0, 60)
      made.set(key, { ...one, taken: phone.heard ? 'sound' : 'phones', stamps: [], source: whose, clock_s: Math.max(one.clock_s ?? 0, phone.clock_s) })
    }
  }
  const words = (texts[BEHAVIOUR] ?? '').split(BETWEEN).filter(Boolean)
  return [
    ...made.values(),
    ...(words.length ? [{ measure: BEHAVIOUR, payload: 1, texts: words, unit: '', taken: 'typed' as const, stamps: [], source: '', clock_s: 0 }] : []),
  ]
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

export type Echo = { state: 'none' } | { state: 'read'; reading: Reading; questions: Question[] } | { state: 'refused'; says: string } | { state: 'unasked' }

/** How what is written is understood in this study, and what is asked about it first; `unasked` when the server cannot be reached.
 *  unit: in which it was written, where that is not the measure's own; besides: a trial that is being mended. */
export async function look(
  study: Study,
  measure: MeasureDraft,
  texts: readonly string[],
  { besides, unit = measure.unit, level = '', taken = 'typed' }: { besides?: string; unit?: string; level?: string; taken?: HowTaken } = {},
): Promise<Echo> {
  if (texts.every((t) => !t.trim())) return { state: 'none' }
  try {
    const body = {
      measure: measure.id,
      payload: 1,
      texts: [...texts],
      unit: scaleOf(measure).number ? unit : '',
      taken,
      stamps: [],
      source: '',
      clock_s: 0,
      besides: besides ?? null,
      level,
    }
    const found = await ask(
      api.POST('/api/studies/{study_id}/readings', { params: { path: { study_id: study.id } }, body, signal: AbortSignal.timeout(3_000) }),
    )
    return found.reading ? { state: 'read', reading: found.reading, questions: found.questions } : { state: 'none' }
  } catch (why) {
    if (why instanceof Refusal && !why.away) return { state: 'refused', says: why.message }
    return { state: 'unasked' }
  }
}

const decimals = (text: string) => /[.,](\d+)/.exec(text)?.[1]?.length ?? 0
/** A plain number is kept without asking the server while it is not out of line with the others (the bounds come with the study), and
 *  written no finer than the tool's step. */
export const inLine = (study: Study, measure: MeasureDraft, text: string, level = ''): boolean => {
  const value = plainNumber(text)
  const usual = study.usual[measure.id]
  if (value === null || !usual || measure.quantity === 'voltage') return false
  if (measure.of && !(Number.isInteger(value) && value >= 0 && value <= measure.of)) return false
  const { low, high } = usual.at[level] ?? usual.anywhere
  return value >= low && value <= high && (!measure.step || decimals(text) <= decimals(measure.step))
}

/** The echo of what is typed, a moment after the last key: how it is read, and for several timers what they give together. */
export function useEcho(study: Study, measure: MeasureDraft, texts: readonly string[], level = ''): Echo {
  const text = texts.join('\n')
  const [echo, setEcho] = useState<Echo>({ state: 'none' })
  useEffect(() => {
    let live = true
    const written = text.split('\n').filter((t) => t.trim())
    if (!written.length || scaleOf(measure).worded || (written.length === 1 && inLine(study, measure, written[0] ?? '', level))) {
      setEcho({ state: 'none' })
      return
    }
    const timer = setTimeout(async () => {
      const found = await look(study, measure, written, { level })
      if (live) setEcho(found)
    }, 250)
    return () => {
      live = false
      clearTimeout(timer)
    }
  }, [text, measure, study, level])
  return echo
}

export type Before = { state: 'clear' } | { state: 'refused'; says: string } | { state: 'asks'; questions: Question[] }

/** What stands before keeping: a refusal, or what is asked about readings that are out of line. */
export async function beforeKeeping(study: Study, readings: readonly ReadingGiven[], level: string): Promise<Before> {
  const asked: Question[] = []
  for (const r of readings) {
    const measure = study.draft.measures.find((m) => m.id === r.measure)
    const written = r.texts ?? []
    if (!measure || !scaleOf(measure).number || (written.length === 1 && inLine(study, measure, written[0] ?? '', level))) continue
    const echo = await look(study, measure, written, { level, unit: r.unit || measure.unit, taken: r.taken ?? 'typed' })
    if (echo.state === 'refused') return { state: 'refused', says: echo.says }
    if (echo.state === 'read') asked.push(...echo.questions)
    // without a network only what a plain number shows by itself can be asked about
    const bounds = study.usual[measure.id]?.anywhere
    const far = written.some((t) => ((v) => v !== null && bounds && (v < bounds.low || v > bounds.high))(plainNumber(t)))
    if (echo.state === 'unasked' && far)
      asked.push({
        doubt: 'line',
        says: `${written.join(', ')} ${measure.unit} is far from the other readings. Is the unit right, and the decimal mark?`,
        offer: '',
      })
  }
  return asked.length ? { state: 'asks', questions: asked } : { state: 'clear' }
}
