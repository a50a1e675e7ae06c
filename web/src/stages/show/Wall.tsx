import { counted as many } from '../../parts/counted'
import { useEffect, useState } from 'react'
import { Link, useParams } from 'react-router'
import type { Joining, Study, Trial, Turn } from '../../data/api'
import { firstOf, firstWritten, unitSaid } from '../../data/measures'
import { useLive } from '../../data/live'
import { useMay } from '../../data/may'
import { useJoining, useRota, useStudy, useTrials } from '../../data/queries'
import { isAway, useScreens } from '../../data/screens'
import { labelOf, levelIndex } from '../../data/trials'
import { useTrialsSeen } from '../../data/useTrialsSeen'
import { minutesSince } from '../../machines/clock'
import { countFilled, remaining, turnKey } from '../../machines/turns'
import { Shape, Skeleton, Trouble } from '../../parts/parts'
import { Stopped } from '../../planning/Stopped'
import { Signs, WhoIsIn } from '../../planning/WhoIsIn'
import { Ladder } from '../../tape/Ladder'
import { bandsOf, tapeLevels } from '../../tape/marks'
import { Shares } from '../../tape/Shares'
import { Tape } from '../../tape/Tape'

/** The lesson on the classroom wall while the trials come in: who is next, the tape filling, the time left, and nothing else. */
export function Wall() {
  const { id = '' } = useParams()
  useLive(id)
  const study = useStudy(id, true)
  const trials = useTrials(id, true)
  // until the lanes are opened the hall is being set up
  const joining = useJoining(id, study.data !== undefined && !study.data.run?.covers)
  const comesIn = joining.data?.open && !study.data?.run?.covers
  useEffect(() => {
    document.title = 'On the wall – Bendro'
  }, [])
  if (study.isLoadingError || trials.isLoadingError)
    return <Trouble error={study.error ?? trials.error} again={() => void Promise.all([study.refetch(), trials.refetch()])} />
  if (!study.data || !trials.data) return <Skeleton lines={4} />
  return (
    <>
      {study.data.lanes.stopped ? <Stopped study={study.data} lifts={false} /> : null}
      {comesIn && joining.data ? <ComingIn study={study.data} joining={joining.data} /> : <Filling study={study.data} stored={trials.data} />}
    </>
  )
}

/** The class comes in: its groups and their lanes, with the signs beside them. */
function ComingIn({ study, joining }: { study: Study; joining: Joining }) {
  return (
    <main className="grid min-h-dvh content-start gap-x-14 gap-y-8 px-8 py-6 md:grid-cols-[20rem_minmax(0,1fr)]" data-coming-in>
      <h1 className="big m-0 text-[2rem] md:col-span-2">{study.title}</h1>
      <div className="grid content-start gap-4">
        <Signs joining={joining} />
      </div>
      <div>
        <WhoIsIn study={study} joining={joining} />
        <p className="m-0 mt-4 text-[1.3rem] text-quiet">The first turn is called when the teacher opens the lanes.</p>
      </div>
    </main>
  )
}

function Filling({ study, stored }: { study: Study; stored: Trial[] }) {
  const seen = useTrialsSeen(study, stored)
  const left = remaining(study.turns, seen)
  const [turn, then] = left
  const lanes = study.turns.some((t) => t.heat > 0) ? 1 : Math.max(1, ...study.turns.map((t) => t.lane))
  const may = useMay()
  const counted = seen.filter((t) => t.place === 'turn' || t.place === 'extra' || t.state === 'void')
  const last = counted.filter((t) => !t.practice).at(-1)
  const shape = study.responses[0]?.shape
  const levels = tapeLevels(study, seen, turn?.level, last?.id)
  const draft = study.draft
  const bands = bandsOf(study)
  const scored = last?.derived.find((d) => d.id === draft.measures[0]?.id)?.text
  return (
    <main className="flex min-h-dvh flex-col px-8 py-5">
      <div className="flex flex-wrap items-baseline gap-x-10">
        <h1 className="big m-0 text-[2rem]">{study.title}</h1>
        <span className="grow" />
        <Left study={study} />
        <p className="big m-0 text-[3rem] leading-none" data-count>
          {countFilled(study.turns, seen)} of {study.turns.length}
        </p>
        {may('run own') ? (
          <Link className="btn btn-plain no-print" to={`/study/${study.id}/run`}>
            Back to the lane
          </Link>
        ) : null}
      </div>
      <div className="mt-4 flex flex-wrap items-end gap-x-14 gap-y-3" aria-live="polite">
        {lanes > 1 && turn ? null : (
          <p className="big m-0 flex items-center gap-5 text-[clamp(3.4rem,8vw,7rem)] leading-none" data-next>
            {turn ? (
              <>
                <Shape n={levelIndex(study, turn.level)} size={64} />
                {[turn.group, labelOf(study, turn.level)].filter(Boolean).join(', ')}
              </>
            ) : (
              'All trials are in'
            )}
          </p>
        )}
        {lanes > 1 && turn ? <Lanes study={study} lanes={lanes} left={left} /> : null}
        {then && lanes < 2 ? <p className="m-0 text-[1.9rem] text-quiet">then {[then.group, labelOf(study, then.level)].filter(Boolean).join(', ')}</p> : null}
        <span className="grow" />
        {last ? (
          <p className="m-0 text-right text-[1.9rem]" data-last>
            <span className="text-quiet">last: {labelOf(study, last.level)} </span>
            <span className="big text-[3.4rem] leading-none">{last.state === 'void' ? `void: ${last.fault}` : firstWritten(study, last)}</span>
            {scored ? <span className="big text-[2rem]"> {scored}</span> : null}
          </p>
        ) : null}
      </div>
      <div className="mt-auto pt-6">
        {shape === 'rungs' ? (
          <Ladder study={study} seen={seen} />
        ) : shape === 'survival' ? (
          <Shares study={study} seen={seen} response={draft.measures[0]?.id ?? ''} />
        ) : (
          <Tape
            roomy
            large
            fit={lanes > 1 ? 360 : 460}
            levels={levels}
            unit={unitSaid(firstOf(draft))}
            bands={bands}
            span={bands.flatMap((b) => [b.from, b.to])}
            caption={`${many(
              levels.reduce((n, l) => n + l.marks.length, 0),
              'trial',
            )} on the tape`}
          />
        )}
      </div>
    </main>
  )
}

/** With several lanes: whom each calls and what falls there. */
function Lanes({ study, lanes, left }: { study: Study; lanes: number; left: readonly Turn[] }) {
  const screens = useScreens(study.id).data?.screens ?? []
  return (
    <ul className="m-0 grid w-full list-none gap-x-10 p-0" style={{ gridTemplateColumns: `repeat(${lanes}, minmax(0, 1fr))` }} aria-label="Lanes" data-next>
      {Array.from({ length: lanes }, (_, i) => i + 1).map((n) => {
        const called = screens.filter((s) => !isAway(s)).flatMap((s) => s.turns.map((t) => ({ s, turn: study.turns.find((x) => turnKey(x) === turnKey(t)) })))
        const here = called.find((c) => c.turn?.lane === n && c.s.doing === 'falling') ?? called.find((c) => c.turn?.lane === n)
        const turn = here?.turn ?? left.find((t) => t.lane === n)
        const shut = study.lanes.shut?.[String(n)]
        return (
          <li key={n} className="border-t-2 border-ink pt-2" data-lane={n}>
            <p className="m-0 text-[1.3rem] text-quiet">
              Lane {n}
              {shut ? ` ${shut.state}` : here?.s.doing === 'falling' ? ': falling' : ''}
            </p>
            <p className="big m-0 flex items-center gap-4 text-[clamp(1.8rem,4.4vw,4.2rem)] leading-none">
              {turn ? (
                <>
                  <Shape n={levelIndex(study, turn.level)} size={34} />
                  {[turn.group, labelOf(study, turn.level)].filter(Boolean).join(', ')}
                </>
              ) : (
                '—'
              )}
            </p>
          </li>
        )
      })}
    </ul>
  )
}

/** Minutes to the bell, where the lesson's rota says when that is. */
function Left({ study }: { study: Study }) {
  const rota = useRota(study.id).data
  const [now, setNow] = useState(() => new Date())
  useEffect(() => {
    const tick = setInterval(() => setNow(new Date()), 5_000)
    return () => clearInterval(tick)
  }, [])
  if (!rota || rota.stale) return null
  const left = Math.ceil(rota.lesson.minutes - minutesSince(rota.start, now))
  if (left < 0 || left > rota.lesson.minutes) return null
  return (
    <p className="big m-0 text-[3rem] leading-none" role="timer" data-left>
      {left} min left
    </p>
  )
}
