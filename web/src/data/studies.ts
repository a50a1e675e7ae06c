import { api, ask, type Patch, patchOf, type StudyLine } from './api'
import { anew } from './queries'

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
