import { useEffect, useSyncExternalStore } from 'react'
import { api, ask, type Version, type VersionDraft } from '../../data/api'
import { typed, type Waiting } from '../../data/keep'
import { anew, client } from '../../data/queries'
import { sent } from '../../data/sending'
import { queue } from '../../machines/saveQueue'
import { type Port, Typing } from '../../machines/typing'

/** How often a version's photo was sent from here: a new one is not hidden by the copy that the browser kept of the last. */
const sentPhotos = new Map<string, number>()
export const photoSent = (id: string) => void sentPhotos.set(id, (sentPhotos.get(id) ?? 0) + 1)
export const photoOf = (study: string, id: string) => `/api/studies/${study}/versions/${id}/photo?r=${sentPhotos.get(id) ?? 0}`

export type Typed = { device: string; draft: VersionDraft; withdrawn: boolean }
const held = new Map<string, Typing<Typed>>()

/** A version that the server answered with takes its place among the others. */
export function tookVersion(study: string, version: Version) {
  client.setQueryData<Version[]>(['versions', study], (all) =>
    all ? [...all.filter((v) => v.id !== version.id), version].sort((a, b) => a.device.localeCompare(b.device) || a.number - b.number) : all,
  )
  void anew(['versions', study])
}

export async function putVersion(study: string, id: string, body: Typed, revision: number): Promise<Version> {
  const answer = (await ask(
    api.PUT('/api/studies/{study_id}/versions/{version_id}', { params: { path: { study_id: study, version_id: id } }, body: { ...body, revision } }),
  )) as Version
  tookVersion(study, answer)
  return answer
}

function port(study: string, id: string): Port<Typed> {
  const key = `version:${id}`
  return {
    keep: (text) => typed.set(key, text),
    kept: () => typed.get(key),
    send: async (revision, body) => {
      if (waits(id)) await queue.flush() // it was begun without a network: the beginning goes first
      if (waits(id)) return { kind: 'away', says: 'This version waits in this browser until the server can be reached.', where: null }
      return sent<Typed>(async () => (await putVersion(study, id, body, Math.max(1, revision))).revision, {
        code: 'version_changed',
        theirs: (facts) => ({ draft: { ...body, draft: facts.theirs as VersionDraft, withdrawn: false }, version: facts.revision as number }),
      })
    },
  }
}

const waits = (id: string) => queue.snapshot.waiting.some((w) => w.kind === 'version' && w.id === id)

/** A version that was begun without a network, as it stands on the shelf until the server gives it its number. */
export function provisional(w: Waiting, before: readonly Version[]): Version {
  const { device, draft } = w.body as { device: string; draft: VersionDraft }
  const last = Math.max(0, ...before.filter((v) => v.device === device).map((v) => v.number))
  return {
    id: w.id,
    device,
    number: last + 1,
    revision: 0,
    withdrawn: false,
    draft,
    changed: [],
    says: '',
    rules: [],
    side: null,
    drawing: null,
    cost: 0,
    photo: false,
  } as unknown as Version
}

/** A version as it is typed: the same object wherever it is shown. */
export function useVersion(study: string, version: Version) {
  let machine = held.get(version.id)
  const known: Typed = { device: version.device, draft: version.draft, withdrawn: false }
  if (!machine) {
    machine = new Typing(known, version.revision, port(study, version.id))
    held.set(version.id, machine)
  }
  const typing = machine
  useEffect(() => typing.meet({ device: version.device, draft: version.draft, withdrawn: false }, version.revision), [typing, version])
  const now = useSyncExternalStore(typing.subscribe, () => typing.snapshot)
  return { ...now, machine: typing, change: (part: Partial<VersionDraft>) => typing.change({ draft: { ...typing.snapshot.draft.draft, ...part } }) }
}
