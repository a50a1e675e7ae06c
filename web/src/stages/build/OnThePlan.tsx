import { Link } from 'react-router'
import type { Study, Version } from '../../data/api'
import { usePlan } from '../../data/usePlan'

/** In design rounds a version is a level: a new one is put on the plan with one press, and then it can be run. */
export function OnThePlan({ study, version }: { study: Study; version: Version }) {
  const { draft, change } = usePlan(study)
  if (draft.study_kind !== 'design_rounds') return null
  const levels = (draft.variable.levels ?? []).filter((l) => l.trim())
  const name = String(version.number)
  if (levels.includes(name))
    return (
      <p className="m-0 mt-2 text-quiet">
        Version {name} is on the plan. <Link to={`/study/${study.id}/run`}>Go to the run</Link>
      </p>
    )
  return (
    <button type="button" className="btn mt-3" onClick={() => change({ variable: { ...draft.variable, levels: [...levels, name] } })}>
      Put version {name} on the plan
    </button>
  )
}
