import { useCallback, useEffect, useRef, useState } from 'react'
import { api, ask, type Draft, Refusal, type Study } from '../../data/api'
import { typed } from '../../data/keep'
import { client } from '../../data/queries'

export type Saving = { state: 'saved' | 'saving' | 'away' | 'refused' | 'clash'; says?: string; where?: string | null; theirs?: { draft: Draft; version: number } }

const PAUSE_MS = 500

/** The plan being typed. Kept in the browser at every key, sent after a short pause, told when someone else changed it. */
export function useDraft(study: Study) {
  const key = `plan:${study.id}`
  const [draft, setDraft] = useState<Draft>(() => {
    const kept = typed.get(key)
    return kept ? (JSON.parse(kept) as Draft) : study.draft
  })
  const [saving, setSaving] = useState<Saving>({ state: 'saved' })
  const version = useRef(study.version)
  const newest = useRef(draft)
  const sent = useRef(JSON.stringify(study.draft))
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const busy = useRef(false)

  const send = useCallback(async (): Promise<void> => {
    clearTimeout(timer.current)
    if (busy.current) return
    const text = JSON.stringify(newest.current)
    if (text === sent.current) return
    busy.current = true
    setSaving({ state: 'saving' })
    try {
      const path = { params: { path: { study_id: study.id } } }
      const answer = await ask(api.PATCH('/api/studies/{study_id}', { ...path, body: { version: version.current, draft: newest.current } as never }))
      version.current = answer.version
      sent.current = text
      if (JSON.stringify(newest.current) === text) typed.set(key, '')
      client.setQueryData(['study', study.id], answer)
      void client.invalidateQueries({ queryKey: ['home'] })
      void client.invalidateQueries({ queryKey: ['analysis', study.id] })
      setSaving({ state: 'saved' })
    } catch (why) {
      if (!(why instanceof Refusal)) throw why
      if (why.code === 'study_changed') setSaving({ state: 'clash', says: why.message, theirs: why.facts.theirs as { draft: Draft; version: number } })
      else if (why.away) {
        setSaving({ state: 'away', says: `${why.message} The plan is kept in this browser.` })
        timer.current = setTimeout(() => void send(), 4_000)
      } else setSaving({ state: 'refused', says: why.message, where: why.where })
      return
    } finally {
      busy.current = false
    }
    if (JSON.stringify(newest.current) !== text) await send()
  }, [key, study.id])

  const change = useCallback(
    (part: Partial<Draft>) => {
      newest.current = { ...newest.current, ...part }
      setDraft(newest.current)
      typed.set(key, JSON.stringify(newest.current))
      clearTimeout(timer.current)
      timer.current = setTimeout(() => void send(), PAUSE_MS)
    },
    [key, send],
  )

  const settle = (whose: 'mine' | 'theirs') => {
    if (!saving.theirs) return
    version.current = saving.theirs.version
    if (whose === 'theirs') {
      newest.current = saving.theirs.draft
      sent.current = JSON.stringify(saving.theirs.draft)
      setDraft(saving.theirs.draft)
      typed.set(key, '')
      setSaving({ state: 'saved' })
      void client.invalidateQueries({ queryKey: ['study', study.id] })
    } else {
      sent.current = ''
      void send()
    }
  }

  useEffect(() => {
    if (JSON.stringify(newest.current) !== sent.current) void send()
    return () => {
      void send()
    }
  }, [send])
  return { draft, change, saving, settle, send }
}
