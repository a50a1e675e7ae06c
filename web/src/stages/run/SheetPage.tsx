import { useState } from 'react'
import { Link, useParams } from 'react-router'
import type { Family, Study, Trial } from '../../data/api'
import { useFamilies, useStudy, useTrials } from '../../data/queries'
import { useQueue } from '../../data/useQueue'
import { useTrialsSeen } from '../../data/useTrialsSeen'
import { turnKey } from '../../machines/turns'
import { Frame } from '../../parts/Frame'
import { NotOpened } from '../../parts/NotOpened'
import { Pick, Skeleton } from '../../parts/parts'
import { PaperSheet } from '../../planning/PaperSheet'
import { Finished } from './Finished'
import { RungGrid } from './RungGrid'
import { SheetGrid } from './SheetGrid'

/** For a class with paper: a sheet printed in the order of the turns, and a grid that takes a whole sheet back. */
export function SheetPage() {
  const { id = '' } = useParams()
  const study = useStudy(id, true)
  const trials = useTrials(id, true)
  const families = useFamilies()
  const { loaded } = useQueue()
  const wrong = [study, trials, families].find((q) => q.isLoadingError)
  if (wrong) return <NotOpened error={wrong.error} again={() => void Promise.all([study.refetch(), trials.refetch(), families.refetch()])} />
  if (!study.data || !trials.data || !families.data || !loaded) return <Skeleton lines={5} />
  const family = families.data.find((f) => f.id === study.data.draft.family)
  return study.data.finished ? (
    <Frame study={study.data} title={`Sheet: ${study.data.title}`}>
      <Finished study={study.data} />
    </Frame>
  ) : (
    <Opened study={study.data} stored={trials.data} family={family} />
  )
}

function Opened({ study, stored, family }: { study: Study; stored: Trial[]; family: Family | undefined }) {
  const seen = useTrialsSeen(study, stored)
  const groups = [...new Set(study.turns.map((t) => t.group).filter(Boolean))]
  const [group, setGroup] = useState('')
  const turns = study.turns.filter((t) => !group || t.group === group)
  const kept = new Set(seen.filter((t) => t.state === 'kept' && !t.practice && t.place !== 'outside').map(turnKey))
  return (
    <Frame study={study} title={`Sheet: ${study.title}`}>
      <div className="px-4 py-6 md:px-8">
        <div className="no-print">
          <h1 className="m-0 text-[2.6rem]">The recording sheet</h1>
          <p className="m-0 mt-1 max-w-[46rem]">
            {study.turns.length === 0
              ? 'The plan has no turns yet. Finish the plan, and the sheet is made from it.'
              : study.rungs.length
                ? 'Print it for the groups, or type a filled one in: one digit a box, and each drop is kept at once.'
                : 'Print it for the groups, or type a filled one in: digits, then Enter for the next box. A row is kept at its last Enter.'}
          </p>
          {study.turns.length === 0 ? (
            <Link className="btn btn-act mt-4" to={`/study/${study.id}/plan`}>
              Go on planning
            </Link>
          ) : (
            <div className="mt-4 flex flex-wrap items-end gap-4">
              {groups.length > 1 ? (
                <Pick label="Whose sheet" value={group} options={[['', 'every group'], ...groups.map((g) => [g, g] as const)]} onChange={setGroup} />
              ) : null}
              <button type="button" className="btn" onClick={() => window.print()}>
                Print
              </button>
              <Link to={`/study/${study.id}/run`} className="btn btn-plain">
                To the lane
              </Link>
            </div>
          )}
        </div>
        {study.turns.length ? (
          <>
            {study.rungs.length ? (
              <RungGrid study={study} turns={turns} seen={seen} />
            ) : (
              <SheetGrid study={study} turns={turns} seen={seen} faults={family?.faults ?? []} />
            )}
            {(group ? [group] : groups.length ? groups : ['']).map((g) => (
              <PaperSheet key={g} study={study} family={family} group={g} turns={study.turns.filter((t) => !g || t.group === g)} kept={kept} />
            ))}
          </>
        ) : null}
      </div>
    </Frame>
  )
}
