import { useEffect, useRef, useState } from 'react'
import { api, ask, Refusal, type Report } from '../../data/api'
import { typed } from '../../data/keep'
import type { components } from '../../data/schema'
import { client } from '../../data/queries'
import { MOST } from './Written'

export type Further = components['schemas']['OwnBody']['also'] extends (infer P)[] | undefined ? P : never
export type Own = { texts: Record<string, string>; without: string[]; also: Further[]; comment: string }
const PAUSE_MS = 700

/** What the class writes over a report: kept in the browser at every key, sent after a pause, told when someone else wrote meanwhile. */
export function useOwn(report: { id: string; own: Report['own']; revision: number; study: { id: string } }) {
  const key = `report:${report.id}`
  const [own, setOwn] = useState<Own>(() => ({ ...(report.own as Own), ...(JSON.parse(typed.get(key) || '{}') as Partial<Own>) }))
  const [state, setState] = useState<{ saving: 'saved' | 'saving' | 'away' | 'refused'; says: string }>({
    saving: typed.get(key) ? 'saving' : 'saved',
    says: '',
  })
  const revision = useRef(report.revision)
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const send = useRef<(next: Own) => Promise<void>>(async () => {})
  send.current = async (next) => {
    setState({ saving: 'saving', says: '' })
    try {
      const path = { study_id: report.study.id, report_id: report.id }
      const line = await ask(api.PUT('/api/studies/{study_id}/reports/{report_id}', { params: { path }, body: { ...next, revision: revision.current } }))
      revision.current = line.revision
      if (typed.get(key) === JSON.stringify(next)) typed.set(key, '')
      setState({ saving: 'saved', says: '' })
      client.setQueryData<Report>(['report', report.study.id, report.id], (held) => held && { ...held, own: next, revision: line.revision })
    } catch (why) {
      if (!(why instanceof Refusal)) throw why
      if (why.away) {
        setState({ saving: 'away', says: 'Kept in this browser; it is sent when the server can be reached.' })
        timer.current = setTimeout(() => void send.current(next), 4_000)
      } else setState({ saving: 'refused', says: why.message })
    }
  }
  const change = (part: Partial<Own>) => {
    const next = { ...own, ...part }
    setOwn(next)
    typed.set(key, JSON.stringify(next))
    setState({ saving: 'saving', says: '' })
    clearTimeout(timer.current)
    // what is too long is told where it is typed, and waits here until it is shortened
    if (Object.values(next.texts).some((t) => t.length > MOST)) return
    timer.current = setTimeout(() => void send.current(next), PAUSE_MS)
  }
  const begun = useRef(false)
  useEffect(() => {
    // what an earlier visit left here goes out first
    if (!begun.current && typed.get(key)) void send.current(own)
    begun.current = true
  }, [key, own])
  return {
    own,
    state,
    write: (part: string, text: string) => change({ texts: { ...own.texts, [part]: text } }),
    leave: (part: string, out: boolean) => change({ without: out ? [...own.without, part] : own.without.filter((p) => p !== part) }),
    take: (part: Further, inside: boolean) => change({ also: inside ? [...own.also, part] : own.also.filter((p) => p !== part) }),
    comment: (text: string) => change({ comment: text }),
  }
}
