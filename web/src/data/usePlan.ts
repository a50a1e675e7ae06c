import { useEffect, useSyncExternalStore } from 'react'
import { type Port, Typing } from '../machines/typing'
import { api, ask, patchOf, type Draft, type Patch, type Study } from './api'
import { typed } from './keep'
import { anew, client } from './queries'
import { sent } from './sending'

const drafts = new Map<string, Typing<Draft>>()

/** A study that the server answered with: shown everywhere at once. */
export function tookStudy(study: Study) {
  client.setQueryData(['study', study.id], study)
  for (const name of ['ahead', 'analysis', 'beside', 'rota', 'shopping', 'templates', 'versions', 'changes']) void anew([name, study.id])
  void anew(['home'])
}

/** What was typed under an earlier version of the program: its measure and second measure become the list. */
function asNow(kept: string): string {
  if (!kept.includes('"measure":')) return kept
  const { measure, also, ...rest } = JSON.parse(kept) as Record<string, unknown>
  return JSON.stringify({ ...rest, measures: [{ ...(measure as object), id: 'm1' }, ...(also ? [{ ...(also as object), id: 'm2' }] : [])] })
}

function port(id: string): Port<Draft> {
  const key = `plan:${id}`
  return {
    keep: (text) => typed.set(key, text),
    kept: () => asNow(typed.get(key)),
    send: (version, draft) =>
      sent<Draft>(
        async () => {
          const study = (await ask(api.PATCH('/api/studies/{study_id}', { params: { path: { study_id: id } }, body: patchOf({ version, draft }) }))) as Study
          tookStudy(study)
          return study.version
        },
        { code: 'study_changed', theirs: (facts) => facts.theirs as { draft: Draft; version: number } },
      ),
  }
}

/** The plan of a study as it is typed, the same on every page. */
export function usePlan(study: Study) {
  let machine = drafts.get(study.id)
  if (!machine) {
    machine = new Typing(study.draft, study.version, port(study.id))
    drafts.set(study.id, machine)
  }
  const held = machine
  useEffect(() => held.meet(study.draft, study.version), [held, study.draft, study.version])
  const now = useSyncExternalStore(held.subscribe, () => held.snapshot)
  return { ...now, machine: held, change: held.change, send: held.send, settle: held.settle }
}

/** Change something of the study beside its draft (its day, its title). */
export async function patchStudy(study: Study, part: Omit<Patch, 'version'>): Promise<Study> {
  await drafts.get(study.id)?.send()
  const version = drafts.get(study.id)?.version ?? study.version
  const answer = (await ask(api.PATCH('/api/studies/{study_id}', { params: { path: { study_id: study.id } }, body: patchOf({ version, ...part }) }))) as Study
  drafts.get(study.id)?.moved(answer.version)
  tookStudy(answer)
  return answer
}

/** Take back the last change to the plan. */
export async function undoPlan(study: Study): Promise<Study> {
  const machine = drafts.get(study.id)
  await machine?.send()
  const answer = (await ask(
    api.POST('/api/studies/{study_id}/undo', { params: { path: { study_id: study.id } }, body: { version: machine?.version ?? study.version } }),
  )) as Study
  machine?.adopt(answer.draft, answer.version)
  tookStudy(answer)
  return answer
}

/** Signing out forgets what other people must not find here. */
export const forgetPlans = () => drafts.clear()
