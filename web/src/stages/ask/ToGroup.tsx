import { useState } from 'react'
import { useNavigate } from 'react-router'
import { v4 as uuid } from 'uuid'
import { api, ask, patchOf, type Draft, type Family, type Study } from '../../data/api'
import { tookStudy } from '../../data/usePlan'
import { Line, Pick, Says, Sheet } from '../../parts/parts'
import { measureFor, secondsOf, variableFor } from '../../planning/choose'

/** One wall, several groups: a group that takes another choice gets a study of its own, with the same wall. */
export function ToGroup({
  open,
  onClose,
  study,
  draft,
  family,
  settled,
}: {
  open: boolean
  onClose: () => void
  study: Study
  draft: Draft
  family: Family | undefined
  settled: () => Promise<void>
}) {
  const changes = draft.could_change ?? []
  const measures = draft.could_measure ?? []
  const [group, setGroup] = useState('')
  const [what, setWhat] = useState('')
  const [read, setRead] = useState('')
  const [says, setSays] = useState('')
  const [id] = useState(() => uuid())
  const go = useNavigate()
  const give = async () => {
    try {
      await settled()
      const made = (await ask(
        api.POST('/api/studies/{study_id}/copy', {
          params: { path: { study_id: study.id } },
          body: { id, title: `${study.title}: ${group}`.slice(0, 120), groups: [group] },
        }),
      )) as Study
      const path = { params: { path: { study_id: id } } }
      const next = {
        ...made.draft,
        variable: variableFor(what, family),
        measures: [{ ...measureFor(read, family), id: 'm1' }],
        derived: [],
        timing: { ...made.draft.timing, ...secondsOf(read, family) },
        question: '',
      }
      const chosen = (await ask(api.PATCH('/api/studies/{study_id}', { ...path, body: patchOf({ version: made.version, draft: next }) }))) as Study
      const { question } = await ask(api.GET('/api/studies/{study_id}/ahead', path))
      tookStudy(
        (await ask(api.PATCH('/api/studies/{study_id}', { ...path, body: patchOf({ version: chosen.version, draft: { ...next, question } }) }))) as Study,
      )
      onClose()
      go(`/study/${id}/ask`)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <Sheet open={open} onClose={onClose} title="A choice for one group">
      <div className="grid gap-5">
        {draft.groups?.length ? (
          <Pick label="Which group" value={group} options={[['', 'Choose …'], ...draft.groups.map((g) => [g, g] as const)]} onChange={setGroup} />
        ) : (
          <Line label="Which group, by label" value={group} onChange={setGroup} />
        )}
        <Pick label="It changes" value={what} options={[['', 'Choose …'], ...changes.map((c) => [c, c] as const)]} onChange={setWhat} />
        <Pick label="It measures" value={read} options={[['', 'Choose …'], ...measures.map((m) => [m, m] as const)]} onChange={setRead} />
        {says ? <Says>{says}</Says> : null}
        <button type="button" className="btn btn-act" disabled={!group || !what || !read} onClick={() => void give()}>
          Make its study
        </button>
      </div>
    </Sheet>
  )
}
