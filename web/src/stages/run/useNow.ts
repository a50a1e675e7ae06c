import { useState } from 'react'
import type { Study, Turn } from '../../data/api'
import { typed } from '../../data/keep'
import { useVersions } from '../../data/queries'

/** What holds at the lane until something changes: who releases, and how the held things stand. Kept in the browser. */
export type Now = { person: string; conditions: Record<string, string> }

export function useNow(studyId: string): { now: Now; setNow: (now: Now) => void } {
  const key = `now:${studyId}`
  const [now, set] = useState<Now>(() => JSON.parse(typed.get(key) || '{"person":"","conditions":{}}') as Now)
  const setNow = (next: Now) => {
    typed.set(key, JSON.stringify(next))
    set(next)
  }
  return { now, setNow }
}

const same = (a: string, b: string) => a.trim().toLowerCase() === b.trim().toLowerCase()

/** The device and version that is released at a turn: the newest that is written down for its group, or in a contest for its device. */
export function useDevice(study: Study, turn: Turn | undefined): { device: string; version: number | null } {
  const versions = useVersions(study.id).data ?? []
  if (!turn || study.draft.study_kind === 'design_rounds') return { device: '', version: null }
  const label = study.levels.find((l) => l.id === turn.level)?.text ?? turn.level
  const mine = versions.filter((v) => !v.withdrawn && (same(v.device, turn.group) || (study.draft.study_kind === 'contest' && same(v.device, label))))
  const newest = mine.reduce<(typeof mine)[number] | undefined>((a, b) => (a && a.number > b.number ? a : b), undefined)
  return { device: newest?.device ?? '', version: newest?.number ?? null }
}
