import { Link } from 'react-router'
import type { Study, Version } from '../../data/api'
import { usePlan } from '../../data/usePlan'

/** In design rounds a version is a level: a new one is put on the plan with one press, and then it can be run. */
export function OnThePlan({ study, version }: { study: Study; version: Version }) {
  const { draft, change } = usePlan(study)
  const run = (
    <Link to={`/study/${study.id}/run`} className="btn btn-act">
      Go to the run
    </Link>
  )
  if (draft.study_kind !== 'design_rounds') return run
  const levels = (draft.variable.levels ?? []).filter((l) => l.trim())
  const name = String(version.number)
  if (levels.includes(name))
    return (
      <>
        {run}
        <p className="m-0 text-[0.92rem] leading-none text-quiet">Version {name} is on the plan.</p>
      </>
    )
  return (
    <button type="button" className="btn btn-act" onClick={() => change({ variable: { ...draft.variable, levels: [...levels, name] } })}>
      Put version {name} on the plan
    </button>
  )
}
