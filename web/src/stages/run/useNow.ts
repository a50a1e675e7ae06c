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
export const heldOf = (study: Study) => study.held_said

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

/** From how high things are dropped now, where that is held: "from 2.4 m". */
export function heightNow(study: Study, now: Now): string {
  const held = heldOf(study).find((h) => same(h.name, 'drop height'))
  const text = held ? (now.conditions[held.name] ?? (held.value || held.how)) : ''
  return text ? `from ${text}` : ''
}

/** The versions that can be released at a turn: those of its group, or in a contest of its device. */
export function versionsAt(study: Study, versions: readonly Version[], turn: Turn | undefined): Version[] {
  if (!turn) return []
  const level = study.levels.find((l) => l.id === turn.level)
  const label = level?.text ?? turn.level
  // in design rounds the level is the version
  if (study.draft.study_kind === 'design_rounds')
    return versions.filter((v) => !v.withdrawn && String(v.number) === label && (!turn.group || same(v.device, turn.group)))
  const mine = versions.filter(
    (v) => !v.withdrawn && (!turn.group || same(v.device, turn.group) || (study.draft.study_kind === 'contest' && same(v.device, label))),
  )
  // where the versions say what the variable is in them, a level is run with the version that was built for it, never with another
  const name = study.draft.variable.name
  const built = (v: Version) => v.draft.properties?.find((p) => same(p.name ?? '', name))?.value ?? ''
  if (!mine.some(built)) return mine
  return mine.filter((v) => [label, level?.label ?? label].some((l) => same(l.replace(/\s/g, ''), built(v).replace(/\s/g, ''))))
}

/** Whether what a turn calls is there: in design rounds a version that stands on the shelf, once the class keeps one. */
export const isBuilt = (study: Study, versions: readonly Version[], turn: Turn): boolean =>
  study.draft.study_kind !== 'design_rounds' || !versions.some((v) => !v.withdrawn) || versionsAt(study, versions, turn).length > 0

/** The device and version that is released at a turn: the newest that is written down for it. */
export function deviceOf(study: Study, versions: readonly Version[], turn: Turn | undefined): { device: string; version: number | null } {
  const newest = versionsAt(study, versions, turn).reduce<Version | undefined>((a, b) => (a && a.number > b.number ? a : b), undefined)
  return { device: newest?.device ?? '', version: newest?.number ?? null }
}
