import { Suspense, useCallback, useEffect, useLayoutEffect, useRef, useState, useSyncExternalStore } from 'react'
import type { Analysis, Family, HowTaken, MeasureDraft, Question, ReadingGiven, Study, Trial, Turn } from '../../data/api'
import { firstOf, firstWritten, payloadsOf, quantityOf, scaleOf, withUnit } from '../../data/measures'
import { useAnalysis, useVersions } from '../../data/queries'
import { bodyOf, labelOf, levelIndex } from '../../data/trials'
import { useTrialsSeen } from '../../data/useTrialsSeen'
import { dropsOf, everyRung, nextRung } from '../../machines/drops'
import { going } from '../../machines/going'
import { queue } from '../../machines/saveQueue'
import { inSeconds, Stopwatch } from '../../machines/stopwatch'
import { countKept, plainNumber, remaining, type SeenTrial, turnKey } from '../../machines/turns'
import { Sheet } from '../../parts/parts'
import { later, soon } from '../../parts/soon'
import { bandsOf, flagOf, tapeLevels } from '../../tape/marks'
import { Tape } from '../../tape/Tape'
import { Agreed, Done, type Standing, Then, Who } from './Called'
import { FaultSheet } from './FaultSheet'
import { Lost } from './Lost'
import type { Open } from './LaneButtons'
import { pairOf } from './pair'
import { ReadingEntry } from './ReadingEntry'
import { type Before, beforeKeeping, type HowFirst, putBack, readingsOf, type Texts, useEntry } from './useEntry'
import { useGive } from './useGive'
import { useInstruments } from './useInstruments'
import { useLaneKeys } from './useLaneKeys'
import { deviceOf, heightNow, isBuilt, useNow } from './useNow'
import { useLaneChoice, useTurn } from './useTurn'

// what is needed now and then is fetched when it is
const FramesSheet = later(async () => ({ default: (await import('./FramesSheet')).FramesSheet }))
const SoundSheet = later(async () => ({ default: (await import('./SoundSheet')).SoundSheet }))
const ThumbSheet = later(async () => ({ default: (await import('./ThumbSheet')).ThumbSheet }))
const InstrumentsSheet = later(async () => ({ default: (await import('./InstrumentsSheet')).InstrumentsSheet }))
const NowSheet = soon(async () => ({ default: (await import('./NowSheet')).NowSheet }))
const CountDown = soon(async () => ({ default: (await import('./CountDown')).CountDown }))
const KeySheet = later(async () => ({ default: (await import('./Keys')).KeySheet }))
const Ladder = soon(async () => ({ default: (await import('../../tape/Ladder')).Ladder }))
const Shares = soon(async () => ({ default: (await import('../../tape/Shares')).Shares }))
const RoundEnd = later(async () => ({ default: (await import('./RoundEnd')).RoundEnd }))
const LandingMap = later(async () => ({ default: (await import('./LandingMap')).LandingMap }))

/** From so many trials on a mean is worth a flag while the run goes on. */
const SHOWN_FROM = 3
/** Marks between the start and the end that one trial can hold. */
const MOST_LAPS = 10

const NOTHING_SAID = { text: '', bad: false }
const asText = (readings: readonly ReadingGiven[]): string => readings.map((r) => (r.texts ?? []).join('|')).join('||')
/** What is asked before the reading in hand is kept. */
type Asked = { of: string; questions: Question[] }

/** The lane: who and what is next, the reading, keep or void, and the tape filling up. */
export function Lane({ study, stored, family }: { study: Study; stored: Trial[]; family: Family }) {
  const seen = useTrialsSeen(study, stored)
  const [lane, setLane] = useLaneChoice(study)
  const built = useVersions(study.id).data
  const every = remaining(study.turns, seen)
  const left = every.filter((t) => (lane === 0 || t.lane === lane) && isBuilt(study, built ?? [], t))
  const unbuilt = [...new Set(every.filter((t) => !isBuilt(study, built ?? [], t)).map((t) => labelOf(study, t.level)))]
  const [before] = useState(() => (study.turns.some((t) => t.heat > 0) ? null : going.get(study.id)))
  const [watch] = useState(() => {
    const made = new Stopwatch()
    if (before) made.resume(before.from)
    return made
  })
  const running = useSyncExternalStore(watch.subscribe, () => watch.snapshot.state === 'running')
  const { turn, taken, goTo, skip } = useTurn(study, left, running, before?.turns[0])
  const measure = firstOf(study.draft)
  const timed = Boolean(measure.timed)
  const fields = useEntry(study.id, turn ? turnKey(turn) : 'none', study.draft)
  const { texts, places } = fields
  const [said, setSaid] = useState<{ text: string; bad: boolean }>({ text: '', bad: false })
  const [fresh, setFresh] = useState<string>()
  const [asked, setAsked] = useState<Asked | null>(null)
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
  const how = useRef<HowFirst | null>(null)
  const laps = useRef<number[]>(Object.values(before?.passed ?? {}))
  const analysis = useAnalysis(study.id)
  const give = useGive(study, now, practice, rungOf)
  const done = useCallback(() => {
    setAsked(null)
    setPractice(false)
    fields.clear()
    watch.clear()
    how.current = null
    laps.current = []
  }, [fields, watch])

  const keep = useCallback(
    async (written: Texts) => {
      if (!turn || busy.current) return
      busy.current = true
      try {
        const readings = readingsOf(places, written, how.current)
        const first = readings.filter((r) => r.measure === measure.id)
        if (first.length < payloadsOf(study.draft, measure).length) {
          setSaid({
            text: first.length
              ? 'One payload is not judged yet. Judge it, or void the trial.'
              : timed
                ? 'No time yet: press Release, or type the time.'
                : scaleOf(measure).number
                  ? 'Nothing is written yet. Type the reading, or void the trial.'
                  : 'Nothing is chosen yet. Press what became of it, or void the trial.',
            bad: true,
          })
          return
        }
        const of = asText(readings)
        const before: Before =
          practice || asked?.of === of ? { state: 'clear' } : asksMore(measure, first, how.current, await beforeKeeping(study, readings, turn.level))
        if (before.state === 'refused') {
          setAsked(null)
          setSaid({ text: before.says, bad: true })
          return
        }
        if (before.state === 'asks') {
          setAsked({ of, questions: before.questions })
          setSaid({ text: before.questions.map((q) => q.says).join(' '), bad: true })
          return
        }
        const answered = asked?.of === of ? asked.questions.map((q) => q.says.slice(0, 300)) : []
        const id = give(turn, { readings, answered })
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
    [turn, measure, study, places, timed, give, asked, practice, rung, done, goTo],
  )

  const voidIt = useCallback(
    (fault: string) => {
      setSheet('none')
      if (!turn) return
      give(turn, { state: 'void', fault, readings: readingsOf(places, texts, how.current) })
      setSaid({ text: `Void: ${fault}. ${labelOf(study, turn.level)} comes again.`, bad: false })
      done()
      goTo(undefined)
    },
    [turn, give, places, texts, study, done, goTo],
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
    watch.clear()
    goTo(study.turns.find((t) => turnKey(t) === turnKey(last)))
    setSaid({
      text: `Undone: ${last.state === 'void' ? 'the void trial' : firstWritten(study, last)} for ${labelOf(study, last.level)}. It is in the field again.`,
      bad: false,
    })
  }, [last, study, watch, goTo])

  /** A reading that was pressed, marked or sent rather than typed; kept at once where nothing else is to be written. */
  const taken_ = useCallback(
    (text: string, by: Omit<HowFirst, 'text'>, atOnce = true) => {
      how.current = { ...by, text: text.trim() }
      fields.setText('0', text)
      if (atOnce && places.length === 1) void keep({ ...texts, '0': text })
    },
    [fields, places.length, texts, keep],
  )

  const press = useCallback(
    (at: number) => {
      if (!turn || !timed) return
      const from = watch.snapshot
      const time = watch.press(at)
      if (time === null || from.state !== 'running') return
      const stamps = [from.from, ...laps.current, at].map((ms) => ms / 1000)
      taken_(time, { taken: laps.current.length ? 'laps' : 'pressed', stamps, source: '' })
    },
    [turn, timed, watch, taken_],
  )
  const keepsGoing = useRef(() => {})
  /** A mark passed while the time runs: noted with its stamp. */
  const lap = useCallback(
    (at: number) => {
      if (watch.snapshot.state !== 'running' || laps.current.length >= MOST_LAPS) return
      laps.current = [...laps.current, at]
      keepsGoing.current()
      const from = watch.snapshot.from
      setSaid({ text: `Marks passed at ${laps.current.map((ms) => `${inSeconds(ms - from)} s`).join(', ')}.`, bad: false })
    },
    [watch],
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
  const [instruments, setInstruments] = useState(false)
  const [told, setTold] = useState<readonly string[]>([])
  const [lost, setLost] = useState<readonly string[]>([])
  const listening = useInstruments(study.id, instruments, (got) => {
    if (got.state === 'kept') {
      // one release is one trial: what another screen has kept leaves this one's field
      const mine = how.current
      if (!mine || mine.source !== got.source || mine.stamps.join() !== got.stamps.join()) return
      done()
      setSaid({ text: got.says, bad: false })
      return
    }
    setTold((all) => [got.says, ...all].slice(0, 6))
    if (got.lost) setLost((all) => [...all, got.says])
    const before = how.current && how.current.text === (texts['0'] ?? '').trim() ? how.current : null
    if (got.state === 'reading') {
      taken_(got.text, { taken: got.taken, stamps: got.stamps, source: got.source, doubt: got.doubt }, false)
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
    const offer = asked?.questions.find((q) => q.offer)?.offer
    if (offer) fields.setText('0', offer)
  }, [asked, fields])

  const timing = running && turn ? turnKey(turn) : ''
  const goesOn = useCallback(() => {
    const at = watch.snapshot
    if (at.state !== 'running' || !timing) return going.set(study.id, null)
    going.set(study.id, { turns: [timing], from: at.from, passed: Object.fromEntries(laps.current.entries()), practice })
  }, [watch, timing, study.id, practice])
  keepsGoing.current = goesOn
  useEffect(goesOn, [goesOn])
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
    timed,
    words: scaleOf(measure).survives,
    running: () => watch.snapshot.state === 'running',
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
      {turn ? (
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
            watch={watch}
            said={asked && asked.of !== inHand ? NOTHING_SAID : { ...said, text: said.bad ? said.text : `${said.text}${worked(study, seen, fresh)}` }}
            asked={
              asked &&
              asked.of ===
                readingsOf(places, texts)
                  .map((r) => (r.texts ?? []).join('|'))
                  .join('||')
                ? asked.questions
                : []
            }
            level={turn.level}
            practice={practice}
            rung={rung}
            onOffer={takeOffer}
            onLap={lap}
            onSheet={setSheet}
            map={pair !== null}
            onPractice={() => setPractice((on) => !on)}
            onPress={press}
            onKeep={enter}
            onUndo={undo}
            onSkip={left.length > 1 ? skip : undefined}
          />
          <Then
            study={study}
            left={left.filter((t) => turnKey(t) !== turnKey(turn))}
            seen={seen}
            places={standingsOf(study, analysis.data)}
            onGo={goTo}
            onAgreed={() => setSheet('agreed')}
          />
        </div>
      ) : (
        <Done study={study} onUndo={undo} said={said.text} lane={lane} onLane={setLane} onMore={goTo} unbuilt={unbuilt} />
      )}
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
      <FaultSheet open={sheet === 'fault'} faults={family.faults} onClose={() => setSheet('none')} onFault={voidIt} />
      <Sheet open={sheet === 'agreed'} onClose={() => setSheet('none')} title="What was agreed">
        <Agreed study={study} />
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
        {sheet === 'sound' ? <SoundSheet open onClose={close} onTake={(text, stamps) => takeFrom('sound', text, stamps)} /> : null}
        {sheet === 'thumbs' ? <ThumbSheet open onClose={close} study={study} /> : null}
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
function asksMore(measure: MeasureDraft, first: readonly ReadingGiven[], how: HowFirst | null, before: Before): Before {
  if (before.state === 'refused') return before
  const written = first[0]?.texts?.length ?? 0
  const agreed = measure.timers ?? 1
  const more: Question[] = []
  if (written < agreed && !how?.source) {
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
