import { Suspense, useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react'
import { v4 as uuid } from 'uuid'
import type { Analysis, Family, HowTaken, KeepSeen, MeasureDraft, Question, ReadingGiven, Study, Trial, Turn } from '../../data/api'
import { firstOf, firstWritten, quantityOf, scaleOf, withUnit } from '../../data/measures'
import { roleOf } from '../../data/may'
import { useAnalysis, useMe, useVersions } from '../../data/queries'
import { useElsewhere } from '../../data/screens'
import { bodyOf, labelOf, levelIndex } from '../../data/trials'
import { useTrialsSeen } from '../../data/useTrialsSeen'
import { dropsOf, everyRung, nextRung } from '../../machines/drops'
import { going } from '../../machines/going'
import { missing } from '../../machines/missing'
import { queue } from '../../machines/saveQueue'
import { inSeconds, TrialRun } from '../../machines/trialRun'
import { countFilled, countKept, plainNumber, remaining, type SeenTrial, turnKey } from '../../machines/turns'
import { Sheet } from '../../parts/parts'
import { later, soon } from '../../parts/soon'
import { bandsOf, flagOf, tapeLevels } from '../../tape/marks'
import { Tape } from '../../tape/Tape'
import { Who } from './Called'
import { Lost } from './Lost'
import type { Open } from './LaneButtons'
import { pairOf } from './pair'
import type { Standing } from './Then'
import { ReadingEntry } from './ReadingEntry'
import { NO_HANDS, type OfPhones } from './phonesGave'
import { type Before, beforeKeeping, type HowFirst, putBack, readingsOf, type Texts, useEntry } from './useEntry'
import { useGive } from './useGive'
import { type Got, useInstruments } from './useInstruments'
import { useLaneKeys } from './useLaneKeys'
import { deviceOf, heightNow, isBuilt, useNow } from './useNow'
import { laneNow, useLaneChoice, useLastGiven, useTurn } from './useTurn'

// what is needed now and then is fetched when it is
const FramesSheet = later(async () => ({ default: (await import('./FramesSheet')).FramesSheet }))
const SoundSheet = later(async () => ({ default: (await import('./SoundSheet')).SoundSheet }))
const FoundList = soon(async () => ({ default: (await import('./seeing/FoundList')).FoundList }))
const FollowSheet = later(async () => ({ default: (await import('./seeing/FollowSheet')).FollowSheet }))
const PictureSheet = later(async () => ({ default: (await import('./seeing/PictureSheet')).PictureSheet }))
const GateView = later(async () => ({ default: (await import('./seeing/GateView')).GateView }))
const ThumbSheet = later(async () => ({ default: (await import('./ThumbSheet')).ThumbSheet }))
const InstrumentsSheet = later(async () => ({ default: (await import('./InstrumentsSheet')).InstrumentsSheet }))
const NowSheet = soon(async () => ({ default: (await import('./NowSheet')).NowSheet }))
const CountDown = soon(async () => ({ default: (await import('./CountDown')).CountDown }))
const KeySheet = later(async () => ({ default: (await import('./Keys')).KeySheet }))
const Ladder = soon(async () => ({ default: (await import('../../tape/Ladder')).Ladder }))
const Shares = soon(async () => ({ default: (await import('../../tape/Shares')).Shares }))
const Halted = soon(async () => ({ default: (await import('./Halted')).Halted }))
const Agreed = later(async () => ({ default: (await import('./Agreed')).Agreed }))
const Then = soon(async () => ({ default: (await import('./Then')).Then }))
const Done = soon(async () => ({ default: (await import('./Done')).Done }))
const FaultSheet = soon(async () => ({ default: (await import('./FaultSheet')).FaultSheet }))
const Hands = soon(async () => ({ default: (await import('./Hands')).Hands }))
const HandSheet = later(async () => ({ default: (await import('./HandSheet')).HandSheet }))
const RoundEnd = later(async () => ({ default: (await import('./RoundEnd')).RoundEnd }))
const LandingMap = later(async () => ({ default: (await import('./LandingMap')).LandingMap }))

/** From so many trials on a mean is worth a flag while the run goes on. */
const SHOWN_FROM = 3

const NOTHING_SAID = { text: '', bad: false }
const asText = (readings: readonly ReadingGiven[]): string => readings.map((r) => (r.texts ?? []).join('|')).join('||')

/** The lane: who and what is next, the reading, keep or void, and the tape filling up. */
export function Lane({ study, stored, family }: { study: Study; stored: Trial[]; family: Family }) {
  const seen = useTrialsSeen(study, stored)
  const [lane, setLane] = useLaneChoice(study)
  const built = useVersions(study.id).data
  const every = remaining(study.turns, seen)
  const [instruments, setInstruments] = useState(false)
  const seat = useMe().data?.seat
  const role = roleOf(useMe().data)
  const elsewhere = useElsewhere(study.id, role)
  const [lastGiven, given] = useLastGiven(study.id)
  const { mine: onLane, halted } = laneNow(study, every, lane, role, lastGiven)
  const left = onLane.filter((t) => isBuilt(study, built ?? [], t))
  // two screens that hear one instrument call the same turn: the first that keeps its reading takes it from the other
  const free = instruments ? left : left.filter((t) => !elsewhere.has(turnKey(t)))
  const unbuilt = [...new Set(every.filter((t) => !isBuilt(study, built ?? [], t)).map((t) => labelOf(study, t.level)))]
  const [before] = useState(() => (study.turns.some((t) => t.heat > 0) ? null : going.get(study.id)))
  const [run] = useState(() => {
    const made = new TrialRun()
    if (before) made.resume(before.from, [1], {}, Object.values(before.passed))
    return made
  })
  const state = useSyncExternalStore(run.subscribe, () => run.snapshot)
  const running = state.state === 'timing'
  const { turn, taken, goTo, skip } = useTurn(study, left, free, running, before?.turns[0])
  const measure = firstOf(study.draft)
  const timed = Boolean(measure.timed)
  const fields = useEntry(study.id, turn ? turnKey(turn) : 'none', study.draft)
  const { texts, places } = fields
  const [said, setSaid] = useState<{ text: string; bad: boolean }>({ text: '', bad: false })
  const [fresh, setFresh] = useState<string>()
  const [phones, setPhones] = useState<OfPhones>({})
  const [practice, setPractice] = useState(before?.practice ?? false)
  const { now, setNow } = useNow(study)
  const [sheet, setSheet] = useState<Open>('none')
  const versions = useVersions(study.id).data ?? []
  const own = deviceOf(study, versions, turn)
  const rungOf = useCallback((t: Turn) => (study.rungs.length ? nextRung(dropsOf(study, seen, t), study.rungs, everyRung(study)) : null), [study, seen])
  const rung = turn ? rungOf(turn) : null
  const busy = useRef(false)
  useLayoutEffect(() => {
    window.scrollTo(0, 0) // the cautions above it were longer
  }, [])
  const hows = useRef<Record<string, HowFirst>>({})
  /** What was followed or felt for the trial in hand, to be kept beside it. */
  const beside = useRef<KeepSeen | null>(null)
  const [gating, setGating] = useState(false)
  const analysis = useAnalysis(study.id)
  const give = useGive(study, now, practice, rungOf)
  const called = useMemo(() => (turn && !halted ? [turn] : []), [turn, halted])
  const [hands, setHands] = useState(NO_HANDS)
  const [fall, nameFall] = useState<string>(uuid)
  const alone = hands.timers.length === 0
  const done = useCallback(() => {
    setPractice(false)
    setPhones({})
    nameFall(uuid())
    fields.clear()
    hows.current = {}
    beside.current = null
  }, [fields])

  /** Sent after its trial, from the same queue; a track whose reading was typed over belongs to no trial. */
  const keepBeside = useCallback(
    (id: string, readings: readonly ReadingGiven[]) => {
      const how = beside.current?.followed ? 'followed' : 'felt'
      if (beside.current && readings.some((r) => r.taken === how))
        void queue.add({ kind: 'seen', studyId: study.id, title: study.title, id, body: beside.current })
    },
    [study],
  )
  const keep = useCallback(
    async (written: Texts) => {
      if (!turn || busy.current) return
      busy.current = true
      try {
        const readings = readingsOf(places, written, hows.current, phones)
        const first = readings.filter((r) => r.measure === measure.id)
        const lacks = missing(study.draft, readings)
        if (lacks) return setSaid({ text: lacks, bad: true })
        run.write(asText(readings))
        const { state: at, questions } = run.snapshot
        const before: Before =
          practice || at === 'asked'
            ? { state: 'clear' }
            : asksMore(measure, first, hows.current['0'] ?? null, await beforeKeeping(study, readings, turn.level), alone)
        if (before.state === 'refused') return setSaid({ text: before.says, bad: true })
        if (before.state === 'asks') {
          run.ask(before.questions)
          setSaid({ text: before.questions.map((q) => q.says).join(' '), bad: true })
          return
        }
        if (!run.keep()) return
        const id = give(turn, { readings, answered: questions.map((q) => q.says.slice(0, 300)) })
        keepBeside(id, readings)
        given()
        setFresh(id)
        setSaid({
          text: `${practice ? 'Practice noted, not counted:' : 'Kept'} ${first.map(said_).join(', ')}${rung === null ? '' : ` from ${withUnit(String(rung), study.draft.drop?.unit ?? 'm')}`} for ${labelOf(study, turn.level)}, ${turn.group || 'this class'}.`,
          bad: false,
        })
        done()
        goTo(undefined)
      } finally {
        busy.current = false
      }
    },
    [turn, measure, study, places, give, keepBeside, run, phones, alone, practice, rung, given, done, goTo],
  )

  const voidIt = useCallback(
    (fault: string) => {
      setSheet('none')
      if (!turn) return
      const readings = readingsOf(places, texts, hows.current, phones)
      keepBeside(give(turn, { state: 'void', fault, readings }), readings)
      run.fail()
      given()
      setSaid({ text: `Void: ${fault}. ${labelOf(study, turn.level)} comes again.`, bad: false })
      done()
      goTo(undefined)
    },
    [turn, give, keepBeside, places, texts, phones, run, given, study, done, goTo],
  )

  const last = seen.at(-1)
  const undo = useCallback(() => {
    if (!last) return
    putBack(study.id, turnKey(last), study.draft, last.readings)
    setPractice(last.practice)
    void queue.add({
      kind: 'trial',
      studyId: study.id,
      title: study.title,
      id: last.id,
      body: { ...bodyOf(last), state: 'withdrawn', revision: last.revision + 1 },
    })
    run.clear()
    goTo(study.turns.find((t) => turnKey(t) === turnKey(last)))
    setSaid({
      text: `Undone: ${last.state === 'void' ? 'the void trial' : firstWritten(study, last)} for ${labelOf(study, last.level)}. It is in the field again.`,
      bad: false,
    })
  }, [last, study, run, goTo])

  /** A reading that was pressed, marked or sent rather than typed; kept at once where nothing else is to be written. */
  const taken_ = useCallback(
    (text: string, by: Omit<HowFirst, 'text'>, atOnce = true) => {
      hows.current['0'] = { ...by, text: text.trim() }
      fields.setText('0', text)
      if (atOnce && places.length === 1) void keep({ ...texts, '0': text })
    },
    [fields, places.length, texts, keep],
  )

  /** A reading of any place that a camera or a sensor gave. */
  const noted = useCallback(
    (place: string, text: string, by: Omit<HowFirst, 'text'>) => {
      hows.current[place] = { ...by, text: text.trim() }
      fields.setText(place, text)
      setSaid({ text: '', bad: false })
    },
    [fields],
  )
  const press = useCallback(
    (at: number) => {
      if (!turn || !timed) return
      const { from, marks } = run.snapshot
      if (!run.press(at) || from === null || run.snapshot.state === 'timing') return
      const stamps = [from, ...marks, at].map((ms) => ms / 1000)
      taken_(inSeconds(at - from), { taken: marks.length ? 'laps' : 'pressed', stamps, source: '' })
    },
    [turn, timed, run, taken_],
  )
  /** A mark passed while the time runs: noted with its stamp. */
  const lap = useCallback(
    (at: number) => {
      if (!run.mark(at)) return
      const { from, marks } = run.snapshot
      setSaid({ text: `Marks passed at ${marks.map((ms) => `${inSeconds(ms - (from ?? 0))} s`).join(', ')}.`, bad: false })
    },
    [run],
  )

  const close = useCallback(() => setSheet('none'), [])
  const takeFrom = useCallback(
    (taken: HowTaken, text: string, stamps: number[], source = '') => {
      taken_(text, { taken, stamps, source }, false)
      setSheet('none')
      setSaid({ text: '', bad: false })
    },
    [taken_],
  )
  /** What an instrument told beside its reading, until the trial is kept. */
  const [more, setMore] = useState<Got | null>(null)
  const [told, setTold] = useState<readonly string[]>([])
  const [lost, setLost] = useState<readonly string[]>([])
  const listening = useInstruments(study.id, instruments, (got) => {
    if (got.state === 'kept') {
      // one release is one trial: what another screen has kept leaves this one's field
      const mine = hows.current['0']
      if (!mine || mine.source !== got.source || mine.stamps.join() !== got.stamps.join()) return
      run.clear()
      done()
      setSaid({ text: got.says, bad: false })
      return
    }
    setTold((all) => [got.says, ...all].slice(0, 6))
    if (got.lost) setLost((all) => [...all, got.says])
    const last = hows.current['0']
    const before = last?.text === (texts['0'] ?? '').trim() ? last : null
    if (got.state === 'reading') {
      taken_(got.text, { taken: got.taken, stamps: got.stamps, source: got.source, doubt: got.doubt }, false)
      setMore(got)
      if (got.taken === 'felt') beside.current = { followed: null, felt: { source: got.source, stamps: [...got.stamps] }, pictures: [] }
      // a reading that nobody has kept is not replaced in silence
      const gone = before?.source ? `${before.text} was not kept. ` : ''
      return setSaid({ text: `${gone}${got.says}`, bad: Boolean(gone || got.doubt) })
    }
    setSaid({ text: got.says, bad: got.state === 'told' })
  })

  const enter = useCallback(() => void keep(texts), [keep, texts])
  const pickOutcome = useCallback(
    (n: number) => {
      const judged = places.filter((p) => p.measure.id === measure.id)
      const place = judged.find((p) => !(texts[p.name] ?? '').trim()) ?? judged[judged.length - 1]
      const word = measure.words[n - 1]
      if (place && word) fields.setText(place.name, word)
    },
    [places, measure, texts, fields],
  )
  const takeOffer = useCallback(() => {
    const offer = run.snapshot.questions.find((q) => q.offer)?.offer
    if (offer) fields.setText('0', offer)
  }, [run, fields])

  const timing = running && turn ? turnKey(turn) : ''
  const { from, marks } = state
  useEffect(() => {
    if (from === null || !timing) return going.set(study.id, null)
    going.set(study.id, { turns: [timing], from, passed: Object.fromEntries(marks.entries()), practice })
  }, [from, marks, timing, study.id, practice])
  useEffect(() => {
    // When a sheet closes, what is typed next belongs to the reading again.
    if (sheet !== 'none' || !window.matchMedia('(min-width: 768px)').matches) return
    const back = () => document.getElementById('timer-0')?.focus()
    back() // at once, so that no letter is lost, and again when the sheet has let go of the keys
    const timer = setTimeout(back)
    return () => clearTimeout(timer)
  }, [sheet])

  useLaneKeys({
    sheet,
    setSheet,
    timed: timed && !gating,
    gating,
    words: scaleOf(measure).survives,
    running: () => run.snapshot.state === 'timing',
    press,
    lap,
    undo,
    skip,
    enter,
    pickOutcome,
    practise: () => setPractice((on) => !on),
  })

  const levels = tapeLevels(study, seen, turn?.level, fresh).map((l, i) => {
    const s = analysis.data?.levels.find((x) => levelIndex(study, x.level) === i)
    // the result of a level with zones is in points, and this tape in the unit that is read
    const current = s && !scaleOf(measure).scored && s.n_kept === countKept(seen, study.levels[i]?.id)
    return current && s.n_kept >= SHOWN_FROM ? { ...l, ...flagOf(s, study), low: s.min, high: s.max } : l
  })
  const rungs =
    quantityOf(measure) === 'length' && study.draft.drop?.unit === measure.unit
      ? (study.draft.drop?.heights ?? []).map(plainNumber).filter((v): v is number => v !== null)
      : []
  const span = rungs.length ? [0, Math.max(...rungs)] : []
  const bands = bandsOf(study)
  const point =
    scaleOf(measure).number && !scaleOf(measure).counted && !timed && !study.rungs.length && turn
      ? (text: string) => taken_(text, { taken: 'map', stamps: [], source: '' }, false)
      : undefined
  const pair = pairOf(study, places)
  const pending = (measure.timers ?? 1) === 1 && scaleOf(measure).number ? plainNumber(texts['0']) : null
  const inHand = asText(readingsOf(places, texts))
  useEffect(() => void run.write(inHand), [run, inHand])
  const asked = state.state === 'asked' && state.content === inHand ? state.questions : []
  const stale = state.state === 'asked' && state.content !== inHand
  const caption = `Readings so far: ${study.levels.map((l) => `${l.label} ${countKept(seen, l.id)} kept`).join(', ')}.`
  const tape = {
    unit: measure.unit ?? '',
    caption,
    pending,
    span: [...span, ...bands.flatMap((b) => [b.from, b.to])],
    bands,
    step: plainNumber(measure.step) ?? 0,
    onPoint: point,
    steady: true,
  }
  return (
    <div className="flex grow flex-col">
      {halted && state.state === 'turn' ? (
        <Halted study={study} how={halted} lane={lane} onLane={setLane} onUndo={undo} said={said.text} />
      ) : turn && gating ? (
        <Suspense>
          <GateView
            study={study}
            turn={turn}
            nth={`trial ${Math.min(countFilled(study.turns, seen, turn.level) + 1, study.draft.repeats ?? 1)} of ${study.draft.repeats ?? 1}`}
            value={texts['0'] ?? ''}
            said={stale ? NOTHING_SAID : said}
            asked={asked}
            practice={practice}
            onReading={noted}
            onKeep={enter}
            onVoid={() => setSheet('fault')}
            onUndo={undo}
            onAgain={() => {
              hows.current = {}
              fields.clear()
            }}
            onClose={() => setGating(false)}
          />
        </Suspense>
      ) : turn ? (
        <div className="grid grow grid-cols-[minmax(0,1fr)] content-start md:max-lg:grid-rows-[auto_1fr] md:grid-cols-[minmax(13rem,1fr)_minmax(24rem,1.45fr)] lg:grid-cols-[minmax(15rem,1fr)_minmax(24rem,1.45fr)_minmax(12rem,0.62fr)]">
          <Who
            study={study}
            turn={turn}
            seen={seen}
            next={left.find((t) => turnKey(t) !== turnKey(turn))}
            taken={taken}
            family={family}
            released={[own.version ? `${own.device} version ${now.versions[own.device] ?? own.version}` : '', heightNow(study, now), now.person]
              .filter(Boolean)
              .join(', ')}
            lane={lane}
            onLane={setLane}
            onAgreed={() => setSheet('agreed')}
            onNow={() => setSheet('now')}
          />
          <ReadingEntry
            study={study}
            family={family}
            fields={fields}
            now={state}
            said={stale ? NOTHING_SAID : { ...said, text: said.bad ? said.text : `${said.text}${worked(study, seen, fresh)}` }}
            asked={asked}
            hands={hands}
            onTakeTime={(t) => t.text && taken_(t.text, { taken: 'phones', stamps: [], source: t.label, clock_s: t.clock_s }, false)}
            level={turn.level}
            practice={practice}
            rung={rung}
            onOffer={takeOffer}
            onLap={lap}
            onSheet={(to) => (to === 'gate' ? setGating(true) : setSheet(to))}
            map={pair !== null}
            onPractice={() => setPractice((on) => !on)}
            onPress={press}
            onKeep={enter}
            onUndo={undo}
            onSkip={left.length > 1 ? skip : undefined}
          />
          <Suspense fallback={<span />}>
            <Then
              study={study}
              left={left.filter((t) => turnKey(t) !== turnKey(turn))}
              seen={seen}
              places={standingsOf(study, analysis.data)}
              onGo={goTo}
              onAgreed={() => setSheet('agreed')}
            />
          </Suspense>
        </div>
      ) : left.length && !unbuilt.length ? (
        <Halted study={study} how="elsewhere" lane={lane} onLane={setLane} onUndo={undo} said={said.text} called={left} elsewhere={elsewhere} onCall={goTo} />
      ) : (
        <Suspense>
          <Done study={study} onUndo={undo} said={said.text} lane={lane} onLane={setLane} onMore={goTo} unbuilt={unbuilt} />
        </Suspense>
      )}
      <Suspense>
        <Hands
          study={study}
          lane={lane}
          turns={called}
          now={state}
          half={texts}
          fall={fall}
          places={places}
          phones={phones}
          onPhones={setPhones}
          onText={fields.setText}
          onLane={setLane}
          onTurn={goTo}
          onHands={setHands}
        />
      </Suspense>
      {more?.more.length && hows.current['0']?.stamps.join() === more.stamps.join() ? (
        <section aria-label={`What ${more.source} told`} className="px-4 pt-2 md:px-8">
          <Suspense>
            <FoundList
              study={study}
              found={more.more.map(([name, quantity, texts]) => ({
                id: name,
                name,
                quantity,
                unit: texts[0]?.[0] ?? '',
                text: texts[0]?.[1] ?? '',
                texts: Object.fromEntries(texts),
                kind: 'exact',
                value: 0,
                u: 0,
              }))}
              onUse={(place, text) => noted(place.name, text, { taken: more.taken, stamps: more.stamps, source: more.source })}
            />
          </Suspense>
        </section>
      ) : null}
      <Lost says={lost} onSeen={() => setLost([])} />
      {scaleOf(measure).scored && study.draft.study_kind === 'contest' ? (
        <Suspense>
          <RoundEnd study={study} seen={seen} />
        </Suspense>
      ) : null}
      <div className="px-4 pb-4 md:px-8">
        {study.rungs.length || scaleOf(measure).survives ? (
          <Suspense fallback={<div className="min-h-[12rem]" />}>
            {study.rungs.length ? <Ladder study={study} seen={seen} now={turn} /> : <Shares study={study} seen={seen} />}
          </Suspense>
        ) : (
          <>
            <div className="md:hidden">
              <Tape {...tape} levels={levels.filter((l) => l.now || !turn)} />
            </div>
            <div className="max-md:hidden">
              <Tape {...tape} levels={levels} />
            </div>
          </>
        )}
      </div>
      <Suspense>
        <FaultSheet open={sheet === 'fault'} faults={family.faults} onClose={() => setSheet('none')} onFault={voidIt} />
      </Suspense>
      <Sheet open={sheet === 'agreed'} onClose={() => setSheet('none')} title="What was agreed">
        <Suspense>
          <Agreed study={study} />
        </Suspense>
      </Sheet>
      <Suspense>
        {sheet === 'keys' ? <KeySheet open onClose={close} timed={timed} words={scaleOf(measure).survives} /> : null}
        {sheet === 'now' ? <NowSheet open onClose={close} study={study} turn={turn} now={now} onNow={setNow} /> : null}
        {sheet === 'count' ? <CountDown onEnd={close} /> : null}
        {sheet === 'frames' ? (
          <FramesSheet
            open
            onClose={close}
            called={[study.title, turn ? labelOf(study, turn.level) : '', turn?.group ?? ''].filter(Boolean).join(', ')}
            onTake={(text, stamps, second) => {
              takeFrom('frames', text, stamps)
              const other = places.find((p) => p.measure.id !== measure.id && p.measure.quantity === 'time')
              if (second && other) fields.setText(other.name, second)
            }}
          />
        ) : null}
        {sheet === 'follow' ? (
          <FollowSheet
            open
            onClose={close}
            study={study}
            called={[turn ? labelOf(study, turn.level) : '', turn?.group ?? ''].filter(Boolean).join(', ')}
            onReading={noted}
            onBeside={(seen) => {
              beside.current = seen
            }}
          />
        ) : null}
        {sheet === 'picture' ? <PictureSheet open onClose={close} study={study} onReading={noted} /> : null}
        {sheet === 'sound' ? (
          <SoundSheet open onClose={close} study={study} onTake={(text, stamps) => takeFrom('sound', text, stamps, 'the microphone')} />
        ) : null}
        {sheet === 'thumbs' ? <ThumbSheet open onClose={close} study={study} who={seat?.label} /> : null}
        {sheet === 'hand' ? (
          <HandSheet
            study={study}
            screens={hands.screens}
            onClose={close}
            onHanded={(says) => {
              run.clear()
              done()
              goTo(undefined)
              setSaid({ text: says, bad: false })
              close()
            }}
          />
        ) : null}
        {sheet === 'instruments' ? (
          <InstrumentsSheet open onClose={close} study={study} state={listening} on={instruments} onOn={setInstruments} told={told} />
        ) : null}
        {sheet === 'map' && pair ? (
          <LandingMap open onClose={close} study={study} pair={pair} seen={seen} texts={texts} onPoint={(name, text) => fields.setText(name, text)} />
        ) : null}
      </Suspense>
    </div>
  )
}

/** What else is asked: where fewer timers are written than were agreed, and what an instrument's own doubt is about its reading. */
function asksMore(measure: MeasureDraft, first: readonly ReadingGiven[], how: HowFirst | null, before: Before, alone: boolean): Before {
  if (before.state === 'refused') return before
  const written = first[0]?.texts?.length ?? 0
  const agreed = measure.timers ?? 1
  const more: Question[] = []
  // where further phones time, one that did not see it holds nothing up
  if (alone && written < agreed && !how?.source) {
    const says = `Only ${written} of ${agreed} timers ${written === 1 ? 'is' : 'are'} written. Write the others, or keep it if nobody else has a time.`
    more.push({ doubt: 'timers', says, offer: '' })
  }
  if (how?.doubt && how.text === (first[0]?.texts?.[0] ?? '').trim()) more.push({ doubt: 'meter', says: how.doubt, offer: '' })
  if (!more.length) return before
  return { state: 'asks', questions: [...(before.state === 'asks' ? before.questions : []), ...more] }
}

/** The places of a contest as the trials so far can tell them apart; nothing for other studies. */
function standingsOf(study: Study, analysis: Analysis | undefined): Standing[] {
  if (study.draft.study_kind !== 'contest' || analysis?.effect.kind !== 'groups') return []
  const label = (l: string | number) => study.levels[levelIndex(study, l)]?.label ?? String(l)
  const inside = analysis.ranking.flatMap((r) => (r.place === null ? [] : [{ place: r.place, level: r.level }]))
  return [...new Set(inside.map((r) => r.place))].map((place) => ({ place, names: inside.filter((r) => r.place === place).map((r) => label(r.level)) }))
}

/** A reading as it was just written. */
const said_ = (r: ReadingGiven): string => (r.texts ?? []).map((t) => withUnit(t, r.unit ?? '')).join(', ')

/** What was worked out from the trial just kept: " Descent speed 1.41 m/s." */
function worked(study: Study, seen: readonly SeenTrial[], fresh: string | undefined): string {
  const found = seen.find((t) => t.id === fresh)?.derived.filter((d) => d.text) ?? []
  const name = (id: string) => study.responses.find((r) => r.id === id && !r.scored)?.name ?? '' // "5 points" says it all
  const says = found.map((d) => `${name(d.id)} ${d.text}`.trim()).join(', ')
  return says ? ` ${says.slice(0, 1).toUpperCase()}${says.slice(1)}.` : ''
}
