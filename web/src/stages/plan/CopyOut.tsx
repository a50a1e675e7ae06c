import { useState } from 'react'
import { useNavigate } from 'react-router'
import { v4 as uuid } from 'uuid'
import { api, ask, type Study } from '../../data/api'
import { tookStudy } from '../../data/usePlan'
import { Line, Says, Sheet } from '../../parts/parts'

/** The plan for another class or another year, and as a file to keep or to pass on. Trials and predictions stay here. */
export function CopyOut({ study, settled }: { study: Study; settled: () => Promise<void> }) {
  const [open, setOpen] = useState(false)
  const [title, setTitle] = useState(`${study.title}, again`)
  const [label, setLabel] = useState('')
  const [groups, setGroups] = useState((study.draft.groups ?? []).join(', '))
  const [says, setSays] = useState('')
  const [id, setId] = useState(() => uuid())
  const go = useNavigate()
  const copy = async () => {
    try {
      await settled()
      const labels = groups
        .split(/[,;\n]/)
        .map((g) => g.trim())
        .filter(Boolean)
      const made = (await ask(
        api.POST('/api/studies/{study_id}/copy', { params: { path: { study_id: study.id } }, body: { id, title, class_label: label.trim(), groups: labels } }),
      )) as Study
      tookStudy(made)
      setId(uuid())
      setOpen(false)
      go(`/study/${made.id}/plan`)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <>
      <div className="mt-1 flex flex-wrap gap-x-4">
        <button type="button" className="btn btn-plain" onClick={() => setOpen(true)}>
          Copy for another class
        </button>
        <a className="btn btn-plain" href={`/api/studies/${study.id}/plan.json`} download>
          Plan as a file
        </a>
        <button type="button" className="btn btn-plain" onClick={() => window.print()}>
          Print
        </button>
      </div>
      <Sheet open={open} onClose={() => setOpen(false)} title="Copy for another class">
        <form
          className="grid gap-5"
          onSubmit={(e) => {
            e.preventDefault()
            void copy()
          }}
        >
          <p className="m-0">The whole plan without its trials, devices and prediction: every class makes its own.</p>
          <Line label="Its title" value={title} onChange={setTitle} />
          <Line label="Its class" value={label} onChange={setLabel} />
          <Line label="Its group names, separated by commas" value={groups} onChange={setGroups} />
          {says ? <Says>{says}</Says> : null}
          <button type="submit" className="btn btn-act">
            Copy it
          </button>
        </form>
      </Sheet>
    </>
  )
}
