import { useEffect, useState } from 'react'
import { api, ask, type MeasureDraft, type Reading, Refusal } from '../../data/api'
import { typed } from '../../data/keep'
import { plainNumber } from '../../machines/turns'

/** The texts of the trial in hand, kept in the browser at every key. */
export function useEntry(studyId: string, turn: string, fields: number) {
  const key = (name: string) => `run:${studyId}:${turn}:${name}`
  const load = () => ({ texts: Array.from({ length: fields }, (_, i) => typed.get(key(String(i)))), also: typed.get(key('also')), behaviour: typed.get(key('behaviour')) })
  const [entry, setEntry] = useState(load)
  const [of, setOf] = useState(turn)
  if (of !== turn) {
    setOf(turn)
    setEntry(load())
  }
  const setText = (i: number, text: string) => {
    typed.set(key(String(i)), text)
    setEntry((e) => ({ ...e, texts: e.texts.map((t, j) => (j === i ? text : t)) }))
  }
  const setAlso = (also: string) => {
    typed.set(key('also'), also)
    setEntry((e) => ({ ...e, also }))
  }
  const setBehaviour = (behaviour: string) => {
    typed.set(key('behaviour'), behaviour)
    setEntry((e) => ({ ...e, behaviour }))
  }
  const clear = () => {
    for (const name of [...entry.texts.map((_, i) => String(i)), 'also', 'behaviour']) typed.set(key(name), '')
    setEntry({ texts: entry.texts.map(() => ''), also: '', behaviour: '' })
  }
  return { entry, setText, setAlso, setBehaviour, clear }
}

/** Put texts back for a turn, as undo does. */
export function putBack(studyId: string, turn: string, texts: readonly string[], also: string, behaviour: string): void {
  texts.forEach((t, i) => {
    typed.set(`run:${studyId}:${turn}:${i}`, t)
  })
  typed.set(`run:${studyId}:${turn}:also`, also)
  typed.set(`run:${studyId}:${turn}:behaviour`, behaviour)
}

export type Echo = { state: 'none' } | { state: 'read'; reading: Reading } | { state: 'refused'; says: string } | { state: 'unasked' }

/** How one text is understood, asked of the server; `unasked` when it cannot be reached. */
export async function understand(text: string, measure: MeasureDraft): Promise<Echo> {
  if (!text.trim()) return { state: 'none' }
  try {
    const body = { text, quantity: measure.quantity ?? 'length', unit: measure.unit ?? 'm', step: measure.step ?? '', signed: measure.signed ?? false }
    const reading = await ask(api.POST('/api/readings', { body, signal: AbortSignal.timeout(3_000) }))
    return reading ? { state: 'read', reading } : { state: 'none' }
  } catch (why) {
    if (why instanceof Refusal && !why.away) return { state: 'refused', says: why.message }
    return { state: 'unasked' }
  }
}

/** The echo of a text while it is typed, a moment after the last key. */
export function useEcho(text: string, measure: MeasureDraft): Echo {
  const [echo, setEcho] = useState<Echo>({ state: 'none' })
  useEffect(() => {
    let live = true
    if (!text.trim() || plainNumber(text) !== null) {
      setEcho({ state: 'none' })
      return
    }
    const timer = setTimeout(async () => {
      const found = await understand(text, measure)
      if (live) setEcho(found)
    }, 250)
    return () => {
      live = false
      clearTimeout(timer)
    }
  }, [text, measure])
  return echo
}
