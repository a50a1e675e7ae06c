import { Suspense, useCallback, useEffect, useLayoutEffect, useRef, useState, useSyncExternalStore } from 'react'
import { v4 as uuid } from 'uuid'
import type { Family, Question, Study, Trial, Turn } from '../../data/api'
import { firstOf, scaleOf } from '../../data/measures'
import { bodyOf, labelOf } from '../../data/trials'
import { useTrialsSeen } from '../../data/useTrialsSeen'
import { type Going, going } from '../../machines/going'
import { placesOf, TrialRun } from '../../machines/trialRun'
import { queue } from '../../machines/saveQueue'
import { remaining, turnKey } from '../../machines/turns'
import { Sheet } from '../../parts/parts'
import { later, soon } from '../../parts/soon'
import { letGoTogether, tapeLevels } from '../../tape/marks'
import { Tape } from '../../tape/Tape'
import { Agreed } from './Agreed'
import { CountDown } from './CountDown'
import { Halted } from './Halted'
import { type Heard, heatId, heatSaid, readingsOf } from './heatReadings'
import { InstrumentsSheet } from './InstrumentsSheet'
import { Lost } from './Lost'
import { Pressed } from './LaneButtons'
import { NO_HANDS } from './phonesGave'
import { NowSheet } from './NowSheet'
import { OneLane } from './OneLane'
import { type Before, beforeKeeping } from './useEntry'
import { useGive } from './useGive'
import { type Got, useInstruments } from './useInstruments'
import { useNow } from './useNow'
import { useLastGiven } from './useTurn'

const HeatGate = later(async () => ({ default: (await import('./seeing/HeatGate')).HeatGate }))
const KeySheet = later(async () => ({ default: (await import('./Keys')).KeySheet }))
const NOT_TOGETHER = 'not released together'
const NOT_HEARD = 'a landing was not heard'
/** Two gates that tell of one release do it within so long. */
const SAME_DROP_MS = 1_000
const noRung = () => null
const NOTHING_HALF = {}
const Done = soon(async () => ({ default: (await import('./Done')).Done }))
const FaultSheet = soon(async () => ({ default: (await import('./FaultSheet')).FaultSheet }))
const Hands = soon(async () => ({ default: (await import('./Hands')).Hands }))

/** Landings by lane, since the release. */
const landedOf = (g: Going): Record<number, number> => Object.fromEntries(Object.entries(g.passed).map(([lane, at]) => [lane, at - g.from]))

/** Several let go together: one release, a landing for each lane, and what each gives at once. */
export function HeatLane({ study, stored, family }: { study: Study; stored: Trial[]; family: Family }) {
  const seen = useTrialsSeen(study, stored)
  const left = remaining(study.turns, seen)
  // a heat takes every lane, and there is one release: a second screen shows the same heat
  const heatNo = left[0]?.heat ?? 0
  const [lastGiven, gave] = useLastGiven(study.id)
  const last_ = Boolean(study.lanes.last_from) && lastGiven > Date.parse(study.lanes.last_from ?? '')
  const [before] = useState(() => going.get(study.id))
  const [heat] = useState(() => {
    const made = new TrialRun()
    const lanes = study.turns.filter((t) => before?.turns.includes(turnKey(t))).map((t) => t.lane)
    if (before) made.resume(before.from, lanes, landedOf(before))
    return made
  })
  const state = useSyncExternalStore(heat.subscribe, () => heat.snapshot)
  // the heat in hand stays while it falls, whatever another screen keeps meanwhile
  const [held, hold] = useState<Turn[]>(() => study.turns.filter((t) => before?.turns.includes(turnKey(t))))
  const next = left.filter((t) => t.heat === heatNo)
  const running = state.from === null ? next : held
  const { now, setNow } = useNow(study)
  const [practice, setPractice] = useState(before?.practice ?? false)
  const [faulting, setFaulting] = useState<Turn>()
  const [said, setSaid] = useState<{ text: string; bad: boolean }>({ text: '', bad: false })
  const [gating, setGating] = useState(false)
  const [sheet, setSheet] = useState<'none' | 'now' | 'agreed' | 'count' | 'instruments' | 'keys'>('none')
  const [instruments, setInstruments] = useState(false)
  const [told, setTold] = useState<readonly string[]>([])
  const heard = useRef<Heard>({})
  /** When each gate saw the release of this heat, by its own clock. */
  const begun = useRef<Record<string, number>>({})
  /** Releases whose heat is over: a landing that comes after belongs to none. */
  const over = useRef(new Set<string>())
  const [lost, setLost] = useState<readonly string[]>([])
  const busy = useRef(false)
  useLayoutEffect(() => {
    window.scrollTo(0, 0) // the cautions above it were longer
  }, [])
  const give = useGive(study, now, practice, noRung)
  const [fall, nameFall] = useState<string>(uuid)
  const measure = firstOf(study.draft)
  const heats = Math.max(0, ...study.turns.map((t) => t.heat))
  const { landed, outs: out } = state
  const asked = state.state === 'asked'

  useEffect(() => {
    const { from } = state
    if (from === null || state.state !== 'timing') return going.set(study.id, null)
    const passed = Object.fromEntries(Object.entries(state.landed).map(([l, ms]) => [l, from + ms]))
    going.set(study.id, { turns: held.map(turnKey), from, passed, practice })
  }, [state, held, study.id, practice])
  const clear = useCallback(() => {
    heat.clear()
    heard.current = {}
    for (const [source, at] of Object.entries(begun.current)) over.current.add(`${source} ${at}`)
    begun.current = {}
    setPractice(false)
    nameFall(uuid())
  }, [heat])

  const keep = useCallback(async () => {
    const { from } = state
    if (from === null || busy.current || state.state === 'timing') return
    busy.current = true
    try {
      const given = running.filter((t) => !out[t.lane] && landed[t.lane] !== undefined)
      const readings = readingsOf(study, landed, from, heard.current)
      heat.write(JSON.stringify(landed))
      const questions: Question[] = []
      for (const t of asked || practice ? [] : given) {
        const before: Before = await beforeKeeping(study, readings[t.lane] ?? [], t.level)
        if (before.state === 'refused') return setSaid({ text: before.says, bad: true })
        if (before.state === 'asks') questions.push(...before.questions.map((q) => ({ ...q, says: `${labelOf(study, t.level)}: ${q.says}` })))
      }
      if (questions.length) {
        heat.ask(questions)
        setSaid({ text: questions.map((q) => q.says).join(' '), bad: true })
        return
      }
      if (!heat.keep()) return
      const id = heatId(study.id, heard.current)
      const answered = state.questions.map((q) => q.says.slice(0, 300))
      for (const t of running)
        if (out[t.lane]) give(t, { heat: id, state: 'void', fault: out[t.lane] ?? '', readings: readings[t.lane] ?? [] })
        else give(t, { heat: id, readings: readings[t.lane] ?? [], answered: answered.filter((a) => a.startsWith(labelOf(study, t.level))) })
      gave()
      setSaid({ text: `${practice ? 'Practice noted, not counted:' : 'Kept'} ${heatSaid(study, given, landed, heard.current)}.`, bad: false })
      clear()
    } finally {
      busy.current = false
    }
  }, [state, heat, running, out, landed, study, asked, practice, give, gave, clear])

  useEffect(() => {
    if (state.state === 'timed') void keep()
  }, [state, keep])

  const release = useCallback(
    (at: number) => {
      if (!next.length || heat.snapshot.from !== null) return
      hold(next)
      setSaid({ text: '', bad: false })
      heat.release(
        at,
        next.map((t) => t.lane),
      )
    },
    [next, heat],
  )
  const land = useCallback(
    (lane: number, at: number) => {
      heat.land(at, lane)
    },
    [heat],
  )
  /** A heat holds one drop only: what was let go before and has not landed whole is void, and never takes landings of the next. */
  const ownDrop = (got: Got): boolean => {
    const [at] = got.stamps
    if (at === undefined) return true
    if (over.current.has(`${got.source} ${at}`)) return false
    const now = heat.snapshot
    const since = performance.now() - (got.state === 'started' ? 0 : ((got.stamps[1] ?? at) - at) * 1000)
    const known = begun.current[got.source]
    if (now.state === 'timing' && now.from !== null) {
      // of several gates each tells of the one release; a second one of the same gate, or one much later, is another drop
      if (known === undefined ? Math.abs(since - now.from) < SAME_DROP_MS : known === at) {
        begun.current[got.source] = at
        return true
      }
      for (const t of running)
        give(t, {
          heat: heatId(study.id, heard.current),
          state: 'void',
          fault: NOT_HEARD,
          readings: readingsOf(study, landed, now.from, heard.current)[t.lane] ?? [],
        })
      setSaid({ text: `Void: ${NOT_HEARD}. A new release came before all had landed; the heat comes again, with this release.`, bad: true })
      clear()
    }
    if (heat.snapshot.from === null) {
      begun.current = { [got.source]: at }
      release(since)
    }
    return true
  }
  const listening = useInstruments(study.id, instruments, (got) => {
    if (got.state === 'kept') {
      if (Object.values(heard.current).some((h) => h.source === got.source && h.stamps.join() === got.stamps.join())) {
        clear()
        setSaid({ text: got.says, bad: false })
      }
      return
    }
    setTold((all) => [got.says, ...all].slice(0, 6))
    if (got.lost) setLost((all) => [...all, got.says])
    if ((got.state === 'started' || got.state === 'reading') && !ownDrop(got)) return
    if (got.state === 'started') return
    if (got.state === 'reading' && !got.lane) setSaid({ text: `${got.source} did not say which lane landed. Press it.`, bad: true })
    else if (got.state === 'reading' && heat.snapshot.from !== null) {
      // differences of its own clock, laid on the moment in which its release was heard: a landing pressed by hand fits in
      const from = heat.snapshot.from
      const at = from + ((got.stamps[1] ?? 0) - (got.stamps[0] ?? 0)) * 1000
      heard.current = {
        ...heard.current,
        [got.lane]: { ms: at - from, text: got.text, taken: got.taken, stamps: got.stamps, source: got.source },
      }
      land(got.lane, at)
    } else setSaid({ text: got.says, bad: got.state === 'told' })
  })
  /** What further phones time of their own lanes goes in as it comes: the difference of compared clocks, laid on this screen's release. */
  const [hands, setHands] = useState(NO_HANDS)
  useEffect(() => {
    const { from, state: at, landed: down } = heat.snapshot
    if (from === null || at !== 'timing') return
    for (const t of hands.times) {
      if (t.seconds === null || t.text === null || !t.lane || down[t.lane] !== undefined || !running.some((r) => r.lane === t.lane)) continue
      heard.current = {
        ...heard.current,
        [t.lane]: {
          ms: from + t.seconds * 1000 - from,
          text: `${t.text} s`,
          taken: t.heard ? 'sound' : 'phones',
          stamps: [],
          source: t.label,
          clock_s: t.clock_s,
        },
      }
      land(t.lane, from + t.seconds * 1000)
    }
  }, [hands, heat, running, land])
  const uneven = useCallback(() => {
    if (!running.length) return
    const id = uuid()
    const readings = state.from === null ? {} : readingsOf(study, landed, state.from, heard.current)
    for (const t of running) give(t, { heat: id, state: 'void', fault: NOT_TOGETHER, readings: readings[t.lane] ?? [] })
    setSaid({ text: `Void: ${NOT_TOGETHER}. The heat comes again.`, bad: false })
    clear()
  }, [running, give, clear, state, landed, study])
  const undo = useCallback(() => {
    if (heat.snapshot.from !== null) {
      heat.back()
      return
    }
    const last = seen.at(-1)
    if (!last) return
    const whole = last.heat ? seen.filter((t) => t.heat === last.heat) : [last]
    for (const t of whole)
      void queue.add({ kind: 'trial', studyId: study.id, title: study.title, id: t.id, body: { ...bodyOf(t), state: 'withdrawn', revision: t.revision + 1 } })
    setSaid({ text: whole.length > 1 ? `Undone: the whole heat of ${whole.length}.` : 'Undone: the last trial.', bad: false })
  }, [heat, seen, study])

  useLayoutEffect(() => {
    const hear = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || document.querySelector('[role=dialog]') || e.target instanceof HTMLInputElement || e.repeat) return
      const lane = /^[1-6]$/.test(e.key) ? Number(e.key) : 0
      const acts: Record<string, () => void> = {
        ' ': () => {
          setSheet('none')
          release(e.timeStamp)
        },
        u: uneven,
        z: undo,
        p: () => setPractice((on) => !on),
        n: () => setSheet('now'),
        d: () => setSheet('count'),
        '?': () => setSheet('keys'),
        v: () => setFaulting(running.find((t) => landed[t.lane] === undefined) ?? running[0]),
        enter: () => void keep(),
      }
      const act = lane ? () => land(lane, e.timeStamp) : acts[e.key.toLowerCase()]
      if (!act || (e.key === 'Enter' && e.target instanceof HTMLButtonElement)) return
      e.preventDefault()
      act()
    }
    window.addEventListener('keydown', hear)
    return () => window.removeEventListener('keydown', hear)
  }, [release, uneven, undo, keep, land, running, landed])

  const places = placesOf(landed)
  const byHeat = letGoTogether(study, seen)
  const timed = scaleOf(measure).shape !== 'places'
  const unit = timed ? measure.unit : ''
  const caption = `Readings so far in heats: ${study.levels.map((l) => l.label).join(', ')}.`
  if (last_ && state.from === null) return <Halted study={study} how="last" lane={0} onLane={() => undefined} onUndo={undo} said={said.text} />
  if (!running.length)
    return (
      <div className="flex grow flex-col">
        <Suspense>
          <Done study={study} onUndo={undo} said={said.text} lane={0} onLane={() => undefined} onMore={undefined} />
        </Suspense>
        <div className="px-4 pb-4 md:px-8">
          <Tape levels={tapeLevels(study, seen)} unit={unit} caption={caption} joined={byHeat} />
        </div>
      </div>
    )
  return (
    <div className="flex grow flex-col">
      {gating ? (
        <Suspense>
          <HeatGate
            study={study}
            turns={running}
            from={state.from}
            onRelease={release}
            onLand={(lane, ms, text, stamps) => {
              const { from } = heat.snapshot
              if (from === null) return
              const at = from + ms
              heard.current = { ...heard.current, [lane]: { ms: at - from, text, taken: 'camera', stamps, source: 'the camera' } }
              land(lane, at)
            }}
            onClose={() => setGating(false)}
          />
        </Suspense>
      ) : null}
      <section aria-label="Now on the lanes" className="px-4 pt-3 md:px-8 md:pt-5">
        <div className={`flex items-end justify-between gap-x-5 gap-y-2 border-b-2 border-ink pb-3 ${state.from === null ? 'max-md:flex-wrap' : ''}`}>
          <h1 className="big m-0 shrink-0 text-[2.2rem] md:text-[3.4rem]" style={{ fontStretch: '68%' }}>
            Heat {running[0]?.heat} of {heats}
          </h1>
          <p className={`m-0 min-w-0 grow text-[1.1rem] md:pb-2 md:text-[1.25rem] ${state.from === null ? '' : 'max-md:hidden'}`}>
            {running.map((t) => t.group || labelOf(study, t.level)).join(', ')} let go together{practice ? ', for practice' : ''}.{' '}
            <span className="text-quiet">{family.reset.length ? `First: ${family.reset.join(', ')}.` : ''}</span>
          </p>
          <button type="button" className="btn min-h-[56px] shrink-0" onClick={uneven}>
            Not together <Pressed>U</Pressed>
          </button>
        </div>
        {state.from === null && !gating ? (
          <button
            type="button"
            data-press
            className="btn btn-act my-3 min-h-[19vh] w-full flex-col text-[2.4rem] md:min-h-[96px]"
            style={{ touchAction: 'manipulation' }}
            onPointerDown={(e) => release(e.timeStamp)}
          >
            <span className="big">Release</span>
            <span className="text-[1rem] font-normal">
              one press lets all of them go <Pressed>Space</Pressed>
            </span>
          </button>
        ) : null}
        <ol
          className={`m-0 grid list-none p-0 ${running.length > 3 ? 'max-md:grid-cols-2 max-md:gap-x-3' : ''} md:grid-flow-col md:auto-cols-fr md:border-b-2 md:border-ink`}
          data-lanes
        >
          {running.map((t) => (
            <OneLane
              key={turnKey(t)}
              study={study}
              turn={t}
              from={state.from}
              ms={landed[t.lane]}
              fault={out[t.lane]}
              place={places[t.lane]}
              many={running.length > 3}
              onLand={(at) => land(t.lane, at)}
              onFault={() => setFaulting(t)}
            />
          ))}
        </ol>
        <p
          role="status"
          aria-live="polite"
          className={`m-0 mt-2 min-h-[1.6rem] ${said.bad ? 'font-semibold text-doubt' : 'text-quiet'}`}
          data-says={said.bad || undefined}
        >
          {said.text || 'One press lets go, one for each landing. The lines join what fell together.'}
        </p>
        <div className="mt-1 flex flex-wrap gap-2.5">
          {asked ? (
            <button type="button" className="btn btn-act min-h-[56px]" onClick={() => void keep()}>
              It is what was read <Pressed>Enter</Pressed>
            </button>
          ) : null}
          <button type="button" className="btn min-h-[56px]" onClick={undo}>
            Undo <Pressed>Z</Pressed>
          </button>
          <button type="button" className="btn btn-plain" aria-pressed={practice} onClick={() => setPractice((on) => !on)}>
            {practice ? 'Count it again' : 'Practice'} <Pressed>P</Pressed>
          </button>
          <button type="button" className="btn btn-plain" onClick={() => setSheet('count')}>
            Count down <Pressed>D</Pressed>
          </button>
          <button type="button" className="btn btn-plain" onClick={() => setSheet('now')}>
            Conditions now <Pressed>N</Pressed>
          </button>
          <button type="button" className="btn btn-plain" onClick={() => setSheet('instruments')}>
            Instruments
          </button>
          <button type="button" className="btn btn-plain" aria-pressed={gating} onClick={() => setGating((on) => !on)}>
            The camera as the gates
          </button>
          <button type="button" className="btn btn-plain" onClick={() => setSheet('agreed')}>
            What was agreed
          </button>
        </div>
      </section>
      <Suspense>
        <Hands study={study} lane={0} turns={last_ && state.from === null ? [] : running} now={state} half={NOTHING_HALF} fall={fall} onHands={setHands} />
      </Suspense>
      <Lost says={lost} onSeen={() => setLost([])} />
      <div className="mt-3 px-4 pb-4 md:px-8">
        <Tape levels={tapeLevels(study, seen)} unit={unit} caption={caption} joined={byHeat} />
      </div>
      <Suspense>
        <FaultSheet
          open={faulting !== undefined}
          faults={family.faults}
          onClose={() => setFaulting(undefined)}
          onFault={(fault) => {
            if (faulting) heat.out(faulting.lane, fault)
            setFaulting(undefined)
          }}
        />
      </Suspense>
      <Sheet open={sheet === 'agreed'} onClose={() => setSheet('none')} title="What was agreed">
        <Agreed study={study} />
      </Sheet>
      <NowSheet open={sheet === 'now'} onClose={() => setSheet('none')} study={study} turn={running[0]} now={now} onNow={setNow} />
      {sheet === 'instruments' ? (
        <InstrumentsSheet
          open
          onClose={() => setSheet('none')}
          study={study}
          state={listening}
          on={instruments}
          onOn={setInstruments}
          told={told}
          lanes={running.length}
        />
      ) : null}
      {sheet === 'keys' ? (
        <Suspense>
          <KeySheet open onClose={() => setSheet('none')} heat />
        </Suspense>
      ) : null}
      {sheet === 'count' ? <CountDown onEnd={() => setSheet('none')} /> : null}
    </div>
  )
}
