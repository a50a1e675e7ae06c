import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link, useParams } from 'react-router'
import { api, ask, type Study, type Trial } from '../../data/api'
import { client, useStudy, useTrials } from '../../data/queries'
import type { components } from '../../data/schema'
import { isAway, type Screen, useScreens } from '../../data/screens'
import { labelOf, levelIndex } from '../../data/trials'
import { useTrialsSeen } from '../../data/useTrialsSeen'
import { deviceClock } from '../../machines/deviceClock'
import { inSeconds } from '../../machines/trialRun'
import { countFilled, remaining, turnKey } from '../../machines/turns'
import { Frame } from '../../parts/Frame'
import { NotOpened } from '../../parts/NotOpened'
import { Says, Shape, Skeleton } from '../../parts/parts'
import { Stopped } from '../../planning/Stopped'
import { ToTheLanes } from '../../planning/ToTheLanes'
import { TimeTape, type TimeRow } from '../../tape/TimeTape'

type DeskNow = components['schemas']['DeskOut']
const useDesk = (id: string) =>
  useQuery<DeskNow>({
    queryKey: ['desk', id],
    queryFn: async () => (await ask(api.GET('/api/studies/{study_id}/desk', { params: { path: { study_id: id } } }))) as DeskNow,
  })

/** The teacher's desk: the lesson's time is the tape, each lane a row, each trial a mark where it was kept; what to look at, with its control. */
export function Desk() {
  const { id = '' } = useParams()
  const study = useStudy(id, true)
  const trials = useTrials(id, true)
  const desk = useDesk(id)
  const bad = [study, trials, desk].find((q) => q.isLoadingError)
  if (bad) return <NotOpened error={bad.error} again={() => void Promise.all([study.refetch(), trials.refetch(), desk.refetch()])} />
  if (!study.data || !trials.data || !desk.data) return <Skeleton lines={6} />
  return <Opened key={id} study={study.data} stored={trials.data} desk={desk.data} />
}

const minute = 60_000
const clock = (at: number) => new Date(at).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })

function Opened({ study, stored, desk }: { study: Study; stored: Trial[]; desk: DeskNow }) {
  const seen = useTrialsSeen(study, stored)
  const screens = useScreens(study.id).data?.screens ?? []
  const [now, setNow] = useState(() => deviceClock.serverNow())
  const falls = screens.some((s) => s.doing === 'falling')
  useEffect(() => {
    const tick = setInterval(() => setNow(deviceClock.serverNow()), falls ? 100 : 1_000)
    return () => clearInterval(tick)
  }, [falls])
  const [says, setSays] = useState('')
  const begins = Date.parse(desk.begins)
  const since = (at: number) => (at - begins) / minute
  const lanes = Array.from({ length: Math.max(1, ...study.turns.map((t) => t.lane)) }, (_, i) => i + 1)
  const left = remaining(study.turns, seen)
  const laneOf = new Map(study.turns.map((t) => [turnKey(t), t.lane || 1]))
  const shut = study.lanes.shut ?? {}
  const act = async (work: () => Promise<unknown>) => {
    setSays('')
    try {
      await work()
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  const setLane = (lane: number, state: 'open' | 'paused' | 'closed', why = '') =>
    act(async () => {
      const lanes_ = await ask(api.PUT('/api/studies/{study_id}/lanes/{lane}', { params: { path: { study_id: study.id, lane } }, body: { state, why } }))
      client.setQueryData<Study>(['study', study.id], (known) => known && { ...known, lanes: lanes_ as Study['lanes'] })
    })
  const hand = (screen: string) =>
    act(async () => {
      const path = { study_id: study.id, screen_id: screen }
      client.setQueryData(
        ['screens', study.id],
        await ask(api.POST('/api/studies/{study_id}/screens/{screen_id}/hand', { params: { path }, body: { to: null } })),
      )
    })
  const rows: TimeRow[] = lanes.map((n) => {
    const here = screens.filter((s) => !isAway(s, now) && s.turns.some((t) => laneOf.get(turnKey(t)) === n))
    const at = here.find((s) => s.doing === 'falling') ?? here.find((s) => s.doing === 'asked') ?? here[0]
    const own = at?.turns[0]
    const turn = (own && study.turns.find((t) => turnKey(t) === turnKey(own))) ?? left.find((t) => (t.lane || 1) === n)
    const then = left.find((t) => (t.lane || 1) === n && turn && turnKey(t) !== turnKey(turn))
    const state = shut[String(n)]
    const nth = turn ? Math.min(countFilled(study.turns, seen, turn.level) + 1, study.draft.repeats ?? 1) : 0
    return {
      key: String(n),
      over: `Lane ${n}`,
      name: turn ? turn.group || labelOf(study, turn.level) : '—',
      quiet: !turn || Boolean(state),
      below: turn ? (
        <>
          <span className="flex flex-wrap items-center gap-x-2">
            <Shape n={levelIndex(study, turn.level)} size={16} /> {labelOf(study, turn.level)}{' '}
            <span className="text-quiet">
              trial {nth} of {study.draft.repeats}
            </span>
          </span>
          <LaneActs lane={n} state={state?.state} onSet={(to, why) => void setLane(n, to, why)} />
        </>
      ) : (
        'all in'
      ),
      marks: seen
        .filter((t) => !t.practice && t.place !== 'outside' && (laneOf.get(turnKey(t)) ?? 1) === n && Date.parse(t.released_at) >= begins - 5 * minute)
        .map((t) => ({
          id: t.id,
          at: since(Date.parse(t.released_at)),
          shape: Math.max(0, levelIndex(study, t.level)),
          kind: t.state === 'void' ? 'void' : t.answered.length ? 'asked' : 'kept',
        })),
      now: at && !state ? nowAt(at, now, then ? then.group || labelOf(study, then.level) : '') : undefined,
      shut: state
        ? { at: since(Date.parse(state.since)), says: `${state.state} ${clock(Date.parse(state.since))}${state.why ? `: ${state.why}` : ''}` }
        : undefined,
    }
  })
  const { forecast } = desk
  const last = forecast.last_at ? Date.parse(forecast.last_at) : null
  const ends = Math.max(Date.parse(desk.ends), Date.parse(desk.last_call))
  const inNow = screens.filter((s) => !isAway(s, now)).length
  return (
    <Frame study={study} title={`The desk: ${study.title}`}>
      {study.lanes.stopped ? <Stopped study={study} lifts /> : null}
      <div className="grid grow grid-cols-[minmax(0,1fr)] content-start gap-x-10 px-4 py-5 md:px-8 lg:grid-cols-[minmax(0,1fr)_15rem]">
        <h1 className="sr-only">The teacher’s desk</h1>
        <TimeTape
          rows={rows}
          to={since(ends)}
          now={Math.max(0, since(now))}
          clock={clock(now)}
          lastCall={since(Date.parse(desk.last_call))}
          lastIn={last === null ? null : since(last)}
          label={`The lesson so far: ${forecast.kept} of ${forecast.planned} turns kept on ${lanes.length} ${lanes.length === 1 ? 'lane' : 'lanes'}.`}
        />
        <aside aria-label="Look at" className="border-t-[8px] border-tape pt-2">
          <h2 className="big m-0 text-[1.6rem]">Look at</h2>
          {desk.look.map((l) => (
            <p key={l.says} className="m-0 mt-2" data-look={l.code}>
              {l.says}{' '}
              {l.screen && l.code === 'silent' ? (
                <button type="button" className="btn btn-plain min-h-[44px] px-0" onClick={() => void hand(l.screen ?? '')}>
                  Hand its turn on
                </button>
              ) : l.code === 'voids' && !shut[String(l.lane)] ? (
                <button type="button" className="btn btn-plain min-h-[44px] px-0" onClick={() => void setLane(l.lane, 'paused', 'The teacher comes to look.')}>
                  Pause lane {l.lane}
                </button>
              ) : l.code === 'asked' ? (
                <Link className="btn btn-plain min-h-[44px] px-0" to={`/study/${study.id}/trials`}>
                  See the trial
                </Link>
              ) : null}
            </p>
          ))}
          {desk.look.length ? null : <p className="m-0 mt-2 text-quiet">Nothing needs you just now.</p>}
          <p className="m-0 mt-4" data-forecast>
            <strong>
              {forecast.kept} of {forecast.planned}
            </strong>{' '}
            kept.{' '}
            {last === null ? (
              forecast.kept >= forecast.planned ? (
                'All trials are in.'
              ) : (
                'No lane is open.'
              )
            ) : (
              <>
                {forecast.by === 'pace' ? 'At this pace' : 'By the plan'} the last is in at <strong>{clock(last)}</strong>
                {last > Date.parse(desk.last_call) ? <span className="font-semibold text-doubt">, after the last call</span> : ''}.
              </>
            )}
          </p>
          <p className="m-0 mt-4 flex flex-wrap gap-x-4">
            <Link className="btn btn-plain px-0" to={`/study/${study.id}/plan/class`}>
              Who is in ({inNow})
            </Link>
            <Link className="btn btn-plain px-0" to={`/study/${study.id}/run`}>
              To the lane
            </Link>
          </p>
          {says ? <Says>{says}</Says> : null}
        </aside>
        <div className="mt-5 lg:col-span-2">
          <ToTheLanes study={study} wide />
        </div>
      </div>
    </Frame>
  )
}

/** What goes on at a lane: the time of what falls, or for how long the turn has been called. */
function nowAt(s: Screen, now: number, then: string): { big: string; small: string } {
  const since = Math.max(0, now - (s.doing === 'falling' && s.released_at ? s.released_at * 1000 : Date.parse(s.since)))
  const next = then ? `, then ${then}` : ''
  if (s.doing === 'falling') return { big: inSeconds(since).slice(0, -1), small: `s, falling${next}` }
  const long = `${Math.floor(since / minute)}:${String(Math.floor((since % minute) / 1000)).padStart(2, '0')}`
  return { big: s.doing === 'asked' ? 'asked' : '', small: `${s.doing === 'asked' ? '' : 'called '}${long} ago${next}` }
}

/** Open, pause and close one lane, with the reason where it is closed. */
function LaneActs({
  lane,
  state,
  onSet,
}: {
  lane: number
  state: 'paused' | 'closed' | undefined
  onSet: (to: 'open' | 'paused' | 'closed', why: string) => void
}) {
  const [why, setWhy] = useState<string | null>(null)
  if (why !== null)
    return (
      <form
        className="flex items-center gap-1"
        onSubmit={(e) => {
          e.preventDefault()
          onSet('closed', why.trim())
          setWhy(null)
        }}
      >
        <input
          aria-label={`Why is lane ${lane} closed?`}
          className="field w-[7rem] text-[1rem]"
          placeholder="why"
          value={why}
          onChange={(e) => setWhy(e.target.value)}
        />
        <button type="submit" className="btn btn-plain min-h-[44px] px-0">
          Close
        </button>
      </form>
    )
  return (
    <span className="flex gap-x-3">
      {state ? (
        <button type="button" className="btn btn-plain min-h-[44px] px-0" onClick={() => onSet('open', '')}>
          Open lane {lane}
        </button>
      ) : (
        <>
          <button type="button" className="btn btn-plain min-h-[44px] px-0" aria-label={`Pause lane ${lane}`} onClick={() => onSet('paused', '')}>
            Pause
          </button>
          <button type="button" className="btn btn-plain min-h-[44px] px-0" aria-label={`Close lane ${lane}`} onClick={() => setWhy('')}>
            Close
          </button>
        </>
      )}
    </span>
  )
}
