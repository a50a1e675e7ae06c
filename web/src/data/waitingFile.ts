import { api, ask, type KeepSeen, type RunBody, type Study, type TrialBody, type VersionBody } from './api'
import { copyGet, type Waiting } from './keep'

/** What waits, as a file that Import takes: its trials, versions, photos, openings and what was followed or felt, and of each study the plan that this browser saw last. */
export async function waitingFile(writes: readonly Waiting[]): Promise<string> {
  const studies = await Promise.all(
    [...new Set(writes.map((w) => w.studyId))].map((id) =>
      ofStudy(
        id,
        writes.filter((w) => w.studyId === id),
      ),
    ),
  )
  return JSON.stringify({ form: 'bendro waiting', version: 1, kept_by: writes.find((w) => w.by)?.by ?? '', studies }, null, 1)
}

async function ofStudy(id: string, writes: readonly Waiting[]) {
  const study = await copyGet<Study>(`study:${id}`)
  const of = <K extends Waiting['kind']>(kind: K) => writes.filter((w) => w.kind === kind)
  return {
    id,
    title: study?.title ?? writes.find((w) => w.title)?.title ?? '',
    plan: study?.draft ?? null,
    runs: of('run').map((w) => {
      const { id: run, adult, cautions, mark } = w.body as RunBody
      return { id: run, adult, cautions, mark }
    }),
    versions: of('version').map((w) => ({ id: w.id, ...(w.body as VersionBody) })),
    photos: await Promise.all(of('photo').map(async (w) => ({ version_id: w.id, jpeg: await asBase64(w.body as Blob) }))),
    trials: of('trial').map((w) => ({ id: w.id, body: w.body as TrialBody })),
    seen: of('seen').map((w) => ({ id: w.id, body: w.body as KeepSeen })),
  }
}

async function asBase64(file: Blob): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer())
  let text = ''
  for (let at = 0; at < bytes.length; at += 30_000) text += String.fromCharCode(...bytes.subarray(at, at + 30_000))
  return btoa(text)
}

/** Give it to the teacher as a file of this device. */
export async function saveWaiting(writes: readonly Waiting[]): Promise<void> {
  const at = URL.createObjectURL(new Blob([await waitingFile(writes)], { type: 'application/json' }))
  const link = document.createElement('a')
  link.href = at
  link.download = 'bendro-waiting.json'
  link.click()
  setTimeout(() => URL.revokeObjectURL(at), 10_000)
}

/** Take such a file, or what it would hold, into the studies of the school that is signed in. */
export const takeWaiting = (text: string) => ask(api.POST('/api/waiting', { body: { text } }))
