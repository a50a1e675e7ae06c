import { NotOpened } from '../../parts/NotOpened'
import { lazy, Suspense } from 'react'
import { useParams } from 'react-router'
import type { Family, Me, RunBody, Study, Trial } from '../../data/api'
import { useFamilies, useMe, useStudy, useTrials } from '../../data/queries'
import { useQueue } from '../../data/useQueue'
import { deviceClock } from '../../machines/deviceClock'
import { Empty } from '../../parts/Empty'
import { Frame } from '../../parts/Frame'
import { Skeleton } from '../../parts/parts'
import { Lane } from './Lane'

const Finished = lazy(async () => ({ default: (await import('./Finished')).Finished }))
const Cautions = lazy(async () => ({ default: (await import('./Cautions')).Cautions }))
const Stopped = lazy(async () => ({ default: (await import('../../planning/Stopped')).Stopped }))
const HeatLane = lazy(async () => ({ default: (await import('./HeatLane')).HeatLane }))

export function Run() {
  const { id = '' } = useParams()
  const study = useStudy(id, true)
  const trials = useTrials(id, true)
  const families = useFamilies()
  const { loaded } = useQueue()
  const seat = useMe().data?.seat
  // what came once stays, also when it can no longer be asked for: a sign-in that has run out does not end a lesson
  const first = [study, trials, families].find((q) => q.isLoadingError)
  if (first) return <NotOpened error={first.error} again={() => void Promise.all([study.refetch(), trials.refetch(), families.refetch()])} />
  if (!study.data || !trials.data || !families.data || !loaded) return <Skeleton lines={5} />
  const family = families.data.find((f) => f.id === study.data.draft.family)
  if (!family || study.data.turns.length === 0 || study.data.problems.some((p) => p.grave))
    return (
      <Frame study={study.data} title={`Run: ${study.data.title}`}>
        <Empty
          title="The plan is not ready yet"
          says={[...new Set(study.data.problems.filter((p) => p.grave).map((p) => p.says))]}
          to={`/study/${id}/plan`}
          act="Go on planning"
        />
      </Frame>
    )
  return <Opened key={id} study={asSeated(study.data, seat)} trials={trials.data} family={family} />
}

/** As the server names a seat in a lesson that has no groups (bendro/actions/record.py). */
const WHOLE_CLASS = 'the class'

/** A group's device calls the turns of its group, and of nobody's. */
const asSeated = (study: Study, seat: Me['seat'] | undefined): Study =>
  seat?.role === 'group' && seat.label !== WHOLE_CLASS && study.turns.some((t) => t.group) ? ownTurns(study, seat.label) : study

function ownTurns(study: Study, group: string): Study {
  const turns = study.turns.filter((t) => t.group === group)
  return { ...study, turns, planned: turns.length }
}

function Opened({ study, trials, family }: { study: Study; trials: Trial[]; family: Family }) {
  const { waiting } = useQueue()
  const seated = Boolean(useMe().data?.seat)
  // a run holds for one lesson, and for the plan whose cautions were read; after that they are read again
  const recent = study.run?.covers && deviceClock.serverNow() < Date.parse(study.run.open_until)
  const open = recent || waiting.some((w) => w.kind === 'run' && w.studyId === study.id && !w.refused && (w.body as RunBody).mark === study.safety_mark)
  const heats = study.turns.some((t) => t.heat > 0)
  return (
    <Frame study={study} title={`Run: ${study.title}`}>
      {study.lanes.stopped && !study.finished ? (
        <Suspense fallback={<Skeleton lines={1} part />}>
          <Stopped study={study} lifts={!seated} />
        </Suspense>
      ) : null}
      {study.lanes.said && !study.lanes.stopped ? (
        <p className="m-0 border-b-2 border-ink bg-tape px-4 py-2 text-[1.25rem] font-bold text-tape-ink md:px-8" role="status" data-said>
          {study.lanes.said}
        </p>
      ) : null}
      <Suspense fallback={<Skeleton lines={5} part />}>
        {study.finished ? (
          <Finished study={study} />
        ) : !open && seated ? (
          <Empty title="The lane is not open yet" says={['The teacher reads the cautions and opens it; this screen notices by itself.']} />
        ) : !open ? (
          <Cautions study={study} />
        ) : heats ? (
          <HeatLane study={study} stored={trials} family={family} />
        ) : (
          <Lane study={study} stored={trials} family={family} />
        )}
      </Suspense>
    </Frame>
  )
}
