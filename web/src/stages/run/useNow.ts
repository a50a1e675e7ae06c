import { useMemo, useState } from 'react'
import type { Study, Turn, Version } from '../../data/api'
import { typed } from '../../data/keep'
import { useTrials } from '../../data/queries'

/** What holds at the lane until something changes: who releases, how the held things stand, and which version of a device is released
 *  where that is not the newest. Kept in the browser. */
export type Now = { person: string; conditions: Record<string, string>; versions: Record<string, number> }
const NOTHING: Now = { person: '', conditions: {}, versions: {} }

const same = (a: string, b: string) => a.trim().toLowerCase() === b.trim().toLowerCase()

/** What is held in this study: never what is varied or measured in it. */
export const heldOf = (study: Study) => (study.draft.hold ?? []).filter((h) => study.held_said.some((k) => same(k.name, h.name.replace(/\s+/g, ' '))))

/** As the plan has it, until something else is written. */
export const asPlanned = (study: Study, now: Now): Now => ({
  ...now,
  conditions: {
    ...Object.fromEntries(heldOf(study).map((h) => [h.name, (h.value || h.how || '').slice(0, WORD)])),
    ...now.conditions,
  },
})

/** As many letters of a word does a trial carry. */
export const WORD = 60

/** What this browser was told. One that comes to a run which another has opened goes by what the last trial carried, else by the plan:
 *  its trials stand under the same conditions, though nobody has told it. */
export function useNow(study: Study): { now: Now; setNow: (now: Now) => void } {
  const key = `now:${study.id}`
  const [own, set] = useState<Now | null>(() => (typed.get(key) ? { ...NOTHING, ...(JSON.parse(typed.get(key)) as Partial<Now>) } : null))
  const last = useTrials(study.id).data?.at(-1)?.conditions
  const now = useMemo(() => own ?? (study.run?.covers ? asPlanned(study, { ...NOTHING, conditions: last ?? {} }) : NOTHING), [own, study, last])
  const setNow = (next: Now) => {
    typed.set(key, JSON.stringify(next))
    set(next)
  }
  return { now, setNow }
}

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
