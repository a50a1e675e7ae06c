import { api, ask, type Patch, patchOf, type Study, type StudyLine } from './api'
import { anew, client } from './queries'

const again = () => {
  for (const name of ['home', 'thrown-away']) void anew([name])
}

/** Change something of a study as it stands on Home. */
export async function patchLine(s: StudyLine, part: Omit<Patch, 'version'>): Promise<void> {
  await ask(api.PATCH('/api/studies/{study_id}', { params: { path: { study_id: s.id } }, body: patchOf({ version: s.version, ...part }) }))
  void anew(['study', s.id])
  again()
}

export async function throwAway(id: string): Promise<void> {
  await ask(api.DELETE('/api/studies/{study_id}', { params: { path: { study_id: id } } }))
  again()
}

export async function takeBack(id: string): Promise<void> {
  await ask(api.POST('/api/studies/{study_id}/take-back', { params: { path: { study_id: id } } }))
  again()
}

/** Finish a study, or open it again. */
export async function setFinished(study: Study, finished: boolean): Promise<void> {
  const body = patchOf({ version: study.version, finished })
  client.setQueryData(['study', study.id], await ask(api.PATCH('/api/studies/{study_id}', { params: { path: { study_id: study.id } }, body })))
  again()
}
