import { Suspense, useCallback, useEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react'
import { Link, useParams } from 'react-router'
import { api, ask, type Study } from '../../data/api'
import { typed } from '../../data/keep'
import { useLive } from '../../data/live'
import { useLiveState } from '../../data/liveState'
import { useMe, useStudy, useThumbs } from '../../data/queries'
import { isAway, type Screen, screenId, useScreens } from '../../data/screens'
import { useHere } from '../../data/teller'
import { labelOf } from '../../data/trials'
import { useClock } from '../../data/useClock'
import { inSeconds, phaseOf, TrialRun } from '../../machines/trialRun'
import { NotOpened } from '../../parts/NotOpened'
import { Says, Skeleton } from '../../parts/parts'
import { later } from '../../parts/soon'
import { Stopped } from '../../planning/Stopped'
import { Elapsed } from './Elapsed'

const PhoneEar = later(async () => ({ default: (await import('./seeing/PhoneEar')).PhoneEar }))
const ThumbSheet = later(async () => ({ default: (await import('./ThumbSheet')).ThumbSheet }))

/** A further phone times the falls of the lanes: it sees the release, and presses the landing. One target, and nothing else to press by mistake. */
export function TimerPhone() {
  const { id = '' } = useParams()
  useLive(id)
  const study = useStudy(id, true)
  if (study.isLoadingError) return <NotOpened error={study.error} again={() => void study.refetch()} />
  if (!study.data) return <Skeleton lines={4} />
  return (
    <>
      {study.data.lanes.stopped ? <Stopped study={study.data} lifts={false} /> : null}
      <Timing study={study.data} />
    </>
  )
}

const laneKey = (study: string) => `times:${study}`

function Timing({ study }: { study: Study }) {
  const me = useMe().data
  const label = me?.seat?.label ?? 'This phone'
  const told = useScreens(study.id).data
  const mine = told?.screens.find((s) => s.id === screenId)
  const live = useLiveState(study.id)
  const clock = useClock(study.id, true)
  const lanes = Math.max(1, ...study.turns.map((t) => t.lane))
  const [lane, setLane] = useState(() => Number(typed.get(laneKey(study.id))) || 0)
  const [own, setOwn] = useState(false)
  const [run] = useState(() => new TrialRun())
  const now = useSyncExternalStore(run.subscribe, () => run.snapshot)
  const phase = phaseOf(now)
  const [says, setSays] = useState('')
  const [trying, setTrying] = useState(false)
  const [listens, setListens] = useState(false)
  const thumb = (useThumbs(study.id).data ?? []).find((t) => t.who === label)
  /** The fall in hand, and those that were timed or left out. */
  const fall = useRef<Screen | null>(null)
  const [done, setDone] = useState<ReadonlySet<string>>(new Set())
  const released = useRef<number | null>(null)

  const falls = useMemo(
    () =>
      (told?.screens ?? []).filter(
        (s) =>
          s.fall &&
          (s.turns.length === 1 || lane > 0) &&
          s.id !== screenId &&
          !isAway(s) &&
          (lane === 0 || s.lane === lane || s.lane === 0) &&
          !done.has(s.fall),
      ),
    [told, lane, done],
  )
  const next = falls.find((s) => s.doing === 'falling')
  const stands = fall.current && falls.some((s) => s.fall === fall.current?.fall)

  useHere(study.id, {
    lane,
    doing: phase === 'running' ? 'timing' : 'ready',
    turns: [],
    half: {},
    holds: 0,
    fall: null,
    released_at: null,
    round_trip_s: clock?.trip ?? null,
  })

  useEffect(() => {
    // the lane has let go: the time runs from its own press
    if (own || !next || !clock || next.released_at === null || phase !== 'ready') return
    fall.current = next
    setSays('')
    run.release((next.released_at - clock.ahead) * 1000)
  }, [next, clock, own, phase, run])
  useEffect(() => {
    // it was kept or voided there before this thumb pressed: there is nothing left to press
    if (phase !== 'running' || own || stands) return
    run.clear()
    setSays('It was kept without yours.')
  }, [phase, own, stands, run])

  const tell = useCallback(
    async (landed: number | null, heard = false) => {
      const of = fall.current?.fall ?? next?.fall ?? falls[0]?.fall
      const from = own ? released.current : null
      if (!of || !clock) {
        run.clear()
        return setSays('No lane has let go. It is told to nobody.')
      }
      setDone((all) => new Set([...all, of]))
      const path = { study_id: study.id, fall_id: of, screen_id: screenId }
      const seconds = (ms: number) => ms / 1000 + clock.ahead
      const body = {
        released_at: from === null ? null : seconds(from),
        landed_at: landed === null ? null : seconds(landed),
        round_trip_s: clock.trip,
        heard,
      }
      const took = landed === null ? null : inSeconds(landed - (from ?? run.snapshot.from ?? landed))
      fall.current = null
      released.current = null
      run.clear()
      setSays(took === null ? 'Left out.' : `You: ${took} s.`)
      try {
        await ask(api.PUT('/api/studies/{study_id}/falls/{fall_id}/presses/{screen_id}', { params: { path }, body }))
      } catch (why) {
        setSays(`${took === null ? '' : `You: ${took} s. `}${why instanceof Error ? why.message : String(why)}`)
      }
    },
    [run, own, next, falls, clock, study.id],
  )
  const press = useCallback(
    (at: number) => {
      if (own && run.snapshot.state === 'turn') {
        released.current = at
        fall.current = next ?? null
        run.release(at)
        return
      }
      if (run.land(at)) void tell(at)
    },
    [own, run, tell, next],
  )
  const heardIt = useCallback((at: number) => run.land(at) && void tell(at, true), [run, tell])
  useEffect(() => {
    const hear = (e: KeyboardEvent) => {
      if (e.key !== ' ' || e.repeat || document.querySelector('[role=dialog], [role=alertdialog]')) return
      e.preventDefault()
      press(e.timeStamp)
    }
    window.addEventListener('keydown', hear)
    return () => window.removeEventListener('keydown', hear)
  }, [press])
  useEffect(() => {
    document.title = `${label} – Bendro`
  }, [label])

  const of = fall.current ?? next
  // of a heat it times its own lane
  const turn = of?.turns.find((t) => of.turns.length === 1 || study.turns.some((p) => p.block === t.block && p.level === t.level && p.lane === lane))
  const whose = turn ? (study.turns.find((t) => t.block === turn.block && t.level === turn.level)?.group ?? '') : ''
  const last = (told?.presses ?? []).at(-1)
  const others = last
    ? (told?.presses ?? []).filter((p) => p.fall === last.fall && p.screen_id !== screenId && p.landed_at !== null && p.released_at === null)
    : []
  return (
    <main className="mx-auto flex min-h-dvh w-full max-w-[34rem] flex-col gap-3 px-5 py-4" data-timer={phase}>
      <div className="flex items-baseline justify-between gap-4">
        <h1 className="big m-0 text-[1.7rem]">{label}</h1>
        <p className="m-0 text-quiet">{of ? `for ${[whose, turn ? labelOf(study, turn.level) : ''].filter(Boolean).join(', ')}` : study.title}</p>
      </div>
      <p className="big m-0 text-[clamp(5rem,30vw,9rem)] leading-none" role="timer">
        {phase === 'running' ? <Elapsed from={now.from ?? 0} /> : '0.00'} <span className="text-[0.35em] text-quiet">s</span>
      </p>
      <p className="m-0 min-h-[1.6rem] text-[1.1rem] text-quiet">
        {phase === 'running'
          ? own
            ? 'since you let it go'
            : 'falling since the lane let go'
          : own
            ? 'press as it is let go'
            : 'waiting for the lane to let go'}
      </p>
      <button
        type="button"
        className={`btn min-h-[40dvh] grow flex-col border-[3px] ${phase === 'running' ? 'bg-tape text-tape-ink' : own ? 'btn-act' : 'border-hair text-quiet'}`}
        style={{ touchAction: 'manipulation' }}
        disabled={phase !== 'running' && !own}
        onPointerDown={(e) => press(e.timeStamp)}
      >
        <span className="big text-[clamp(3rem,16vw,5rem)]">{phase !== 'running' && own ? 'Release' : 'Landed'}</span>
        <span className="text-[1.1rem] font-normal">{phase !== 'running' && own ? 'press as it is let go' : 'press as it touches the ground'}</span>
      </button>
      <p className="m-0 min-h-[1.6rem]" role="status" data-told>
        {says}
        {says && others.length ? ` ${others.map((p) => p.label).join(', ')} pressed as well.` : ''}
      </p>
      {phase === 'running' ? (
        <p className="m-0 border-t border-hair pt-2">
          You did not see it?{' '}
          <button type="button" className="btn btn-plain min-h-[48px] px-1" onClick={() => void tell(null)}>
            Leave it out
          </button>
        </p>
      ) : (
        <div className="flex flex-wrap items-center gap-x-3 border-t border-hair pt-2">
          {lanes > 1
            ? [0, ...Array.from({ length: lanes }, (_, i) => i + 1)].map((n) => (
                <button
                  key={n}
                  type="button"
                  aria-pressed={lane === n}
                  className={`btn min-h-[44px] px-3 ${lane === n ? 'bg-tape text-tape-ink' : 'border-hair'}`}
                  onClick={() => {
                    typed.set(laneKey(study.id), n ? String(n) : '')
                    setLane(n)
                  }}
                >
                  {n ? `Lane ${n}` : 'Any lane'}
                </button>
              ))
            : null}
          <button type="button" className="btn btn-plain min-h-[48px]" aria-pressed={own} onClick={() => setOwn((on) => !on)}>
            {own ? 'The lane lets go' : 'I press the release too'}
          </button>
          <button type="button" className="btn btn-plain min-h-[48px]" onClick={() => setTrying(true)}>
            Try the thumb
          </button>
          <button type="button" className="btn btn-plain min-h-[48px]" aria-pressed={listens} onClick={() => setListens((on) => !on)}>
            {listens ? 'The thumb presses' : 'Let it listen'}
          </button>
          <Link className="btn btn-plain min-h-[48px]" to={`/study/${study.id}/felt`}>
            Put this phone in the carrier
          </Link>
        </div>
      )}
      <Suspense>{listens ? <PhoneEar onLoud={heardIt} /> : null}</Suspense>
      <p className="m-0 text-quiet">
        {live === 'never' ? (
          <Says>No stream of the server comes through to this phone, so its clock cannot be compared. Type the time at the lane instead.</Says>
        ) : mine?.doubt_s != null ? (
          `Clock compared: known within ${Math.max(1, Math.round(mine.doubt_s * 2000))} ms.`
        ) : (
          'The clocks are being compared.'
        )}
        {thumb ? ` ${thumb.says}` : ''}
      </p>
      <Suspense>{trying ? <ThumbSheet open onClose={() => setTrying(false)} study={study} who={label} /> : null}</Suspense>
    </main>
  )
}
