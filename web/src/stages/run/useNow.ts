import { useState } from 'react'
import type { Study, Turn, Version } from '../../data/api'
import { typed } from '../../data/keep'

/** What holds at the lane until something changes: who releases, how the held things stand, and which version of a device is released
 *  where that is not the newest. Kept in the browser; `asked`: it was confirmed once. */
export type Now = { person: string; conditions: Record<string, string>; versions: Record<string, number>; asked: boolean }
const NOTHING: Now = { person: '', conditions: {}, versions: {}, asked: false }

export function useNow(studyId: string): { now: Now; setNow: (now: Now) => void } {
  const key = `now:${studyId}`
  const [now, set] = useState<Now>(() => ({ ...NOTHING, ...(JSON.parse(typed.get(key) || '{}') as Partial<Now>) }))
  const setNow = (next: Now) => {
    typed.set(key, JSON.stringify(next))
    set(next)
  }
  return { now, setNow }
}

const same = (a: string, b: string) => a.trim().toLowerCase() === b.trim().toLowerCase()

/** The versions that can be released at a turn: those of its group, or in a contest of its device. */
export function versionsAt(study: Study, versions: readonly Version[], turn: Turn | undefined): Version[] {
  if (!turn || study.draft.study_kind === 'design_rounds') return []
  const label = study.levels.find((l) => l.id === turn.level)?.text ?? turn.level
  return versions.filter((v) => !v.withdrawn && (same(v.device, turn.group) || (study.draft.study_kind === 'contest' && same(v.device, label))))
}

/** The device and version that is released at a turn: the newest that is written down for it. */
export function deviceOf(study: Study, versions: readonly Version[], turn: Turn | undefined): { device: string; version: number | null } {
  const newest = versionsAt(study, versions, turn).reduce<Version | undefined>((a, b) => (a && a.number > b.number ? a : b), undefined)
  return { device: newest?.device ?? '', version: newest?.number ?? null }
}
