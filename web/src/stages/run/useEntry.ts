import { useEffect, useState } from 'react'
import { api, ask, type Reading, Refusal, type Study } from '../../data/api'
import { typed } from '../../data/keep'
import { plainNumber } from '../../machines/turns'

/** Where one text of a turn lies in the browser. */
export const entryKey = (studyId: string, turn: string, name: string): string => `run:${studyId}:${turn}:${name}`

/** The texts of the trial in hand, kept in the browser at every key. */
export function useEntry(studyId: string, turn: string, fields: number) {
  const key = (name: string) => entryKey(studyId, turn, name)
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
    typed.set(entryKey(studyId, turn, String(i)), t)
  })
  typed.set(entryKey(studyId, turn, 'also'), also)
  typed.set(entryKey(studyId, turn, 'behaviour'), behaviour)
}

export type Echo = { state: 'none' } | { state: 'read'; reading: Reading; asks: string | null } | { state: 'refused'; says: string } | { state: 'unasked' }

/** How what is written is understood in this study, and what is asked about it first; `unasked` when the server cannot be reached. */
export async function look(study: Study, texts: readonly string[], also = false, besides?: string): Promise<Echo> {
  if (texts.every((t) => !t.trim())) return { state: 'none' }
  const unit = (also ? study.draft.also?.unit : study.draft.measure.unit) ?? ''
  try {
    const found = await ask(
      api.POST('/api/studies/{study_id}/readings', { params: { path: { study_id: study.id } }, body: { texts: [...texts], unit, also, besides: besides ?? null }, signal: AbortSignal.timeout(3_000) }),
    )
    return found.reading ? { state: 'read', reading: found.reading, asks: found.asks } : { state: 'none' }
  } catch (why) {
    if (why instanceof Refusal && !why.away) return { state: 'refused', says: why.message }
    return { state: 'unasked' }
  }
}

/** A plain number is kept without asking the server while it is not out of line with the others (the bounds come with the study). */
export const inLine = (study: Study, text: string): boolean => {
  const value = plainNumber(text)
  return value !== null && value >= study.usual[0] && value <= study.usual[1]
}

/** The echo of what is typed, a moment after the last key: how it is read, and for several timers what they give together. */
export function useEcho(study: Study, texts: readonly string[], also = false): Echo {
  const text = texts.join('\n')
  const [echo, setEcho] = useState<Echo>({ state: 'none' })
  useEffect(() => {
    let live = true
    const written = text.split('\n').filter((t) => t.trim())
    if (!written.length || (written.length === 1 && plainNumber(written[0]) !== null && (also || inLine(study, written[0] ?? '')))) {
      setEcho({ state: 'none' })
      return
    }
    const timer = setTimeout(async () => {
      const found = await look(study, written, also)
      if (live) setEcho(found)
    }, 250)
    return () => {
      live = false
      clearTimeout(timer)
    }
  }, [text, also, study])
  return echo
}
