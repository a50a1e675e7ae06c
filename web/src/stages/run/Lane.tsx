import { useCallback, useEffect, useLayoutEffect, useRef, useState, useSyncExternalStore } from 'react'
import { v4 as uuid } from 'uuid'
import type { Family, ReadingGiven, Study, Trial, TrialBody, Turn } from '../../data/api'
import { typed } from '../../data/keep'
import { firstOf, firstWritten, isNumber, payloadsOf, withUnit } from '../../data/measures'
import { useAnalysis } from '../../data/queries'
import { bodyOf, labelOf, levelIndex } from '../../data/trials'
import { useTrialsSeen } from '../../data/useTrialsSeen'
import { dropsOf, nextRung } from '../../machines/drops'
import { queue } from '../../machines/saveQueue'
import { Stopwatch } from '../../machines/stopwatch'
import { countKept, plainNumber, remaining, type SeenTrial, turnKey } from '../../machines/turns'
import { Sheet } from '../../parts/parts'
import { Ladder } from '../../tape/Ladder'
import { flagOf, tapeLevels } from '../../tape/marks'
import { Shares } from '../../tape/Shares'
import { Tape } from '../../tape/Tape'
import { Agreed, Done, Then, Who } from './Called'
import { FaultSheet } from './FaultSheet'
import { KeySheet } from './Keys'
import { NowSheet } from './NowSheet'
import { CountDown, ReadingEntry } from './ReadingEntry'
import { entryKey, inLine, look, putBack, readingsOf, type Texts, useEntry } from './useEntry'
import { useDevice, useNow } from './useNow'

/** From so many trials on a mean is worth a flag while the run goes on. */
const SHOWN_FROM = 3

/** The lane: who and what is next, the reading, keep or void, and the tape filling up. */
export function Lane({ study, stored, family }: { study: Study; stored: Trial[]; family: Family }) {
  const seen = useTrialsSeen(study, stored)
  const left = remaining(study.turns, seen)
  const [watch] = useState(() => new Stopwatch())
  const running = useSyncExternalStore(watch.subscribe, () => watch.snapshot.state === 'running')
  const { turn, taken, goTo } = useTurn(study.id, left, running)
  const measure = firstOf(study.draft)
  const timed = Boolean(measure.timed)
  const fields = useEntry(study.id, turn ? turnKey(turn) : 'none', study.draft)
  const { texts, places } = fields
  const [said, setSaid] = useState<{ text: string; bad: boolean }>({ text: '', bad: false })
  const [fresh, setFresh] = useState<string>()
  const [sheet, setSheet] = useState<'none' | 'fault' | 'keys' | 'count' | 'agreed' | 'now'>('none')
  const [asked, setAsked] = useState('')
  const [practice, setPractice] = useState(false)
  const { now, setNow } = useNow(study.id)
  const own = useDevice(study, turn)
  const rung = turn && study.rungs.length ? nextRung(dropsOf(study, seen, turn), study.rungs) : null
  const busy = useRef(false)
  const stamps = useRef<number[]>([])
  const analysis = useAnalysis(study.id)

  const give = useCallback(
    (t: Turn, part: Partial<TrialBody>, id: string = uuid()) => {
      const body: TrialBody = {
        block: t.block,
        level: t.level,
        group: t.group,
        person: now.person,
        device: own.device,
        version: own.version,
        specimen: rung === null ? '' : `number ${t.block}`,
        rung: rung === null ? '' : String(rung),
        practice,
        readings: [],
        conditions: now.conditions,
        state: 'kept',
        fault: '',
        note: '',
        placed: false,
        plan_version: study.version,
        released_at: new Date().toISOString(),
        revision: 1,
        ...part,
      }
      void queue.add({ kind: 'trial', studyId: study.id, id, body })
      return id
    },
    [study.id, study.version, now, own.device, own.version, rung, practice],
  )

  const keep = useCallback(
    async (written: Texts) => {
      if (!turn || busy.current) return
      busy.current = true
      try {
        const readings = readingsOf(places, written, stamps.current)
        const first = readings.filter((r) => r.measure === measure.id)
        if (first.length < payloadsOf(study.draft, measure).length) {
          setSaid({
            text: first.length
              ? 'One payload is not judged yet. Judge it, or void the trial.'
              : timed
                ? 'No time yet: press Release, or type the time.'
                : isNumber(measure)
                  ? 'Nothing is written yet. Type the reading, or void the trial.'
                  : 'Nothing is chosen yet. Press what became of it, or void the trial.',
            bad: true,
          })
          return
        }
        const question = practice ? null : await questionBefore(study, readings)
        if (question && (question.refused || asked !== question.of)) {
          setAsked(question.refused ? '' : question.of)
          setSaid({ text: question.refused ? question.says : `${question.says} Keep it again if it is what was read.`, bad: true })
          return
        }
        setAsked('')
        const id = give(turn, { readings })
        setFresh(id)
        setSaid({
          text: `${practice ? 'Practice noted, not counted:' : 'Kept'} ${first.map(said_).join(', ')}${rung === null ? '' : ` from ${withUnit(String(rung), study.draft.drop?.unit ?? 'm')}`} for ${labelOf(study, turn.level)}, ${turn.group || 'this class'}.`,
          bad: false,
        })
        setPractice(false)
        fields.clear()
        watch.clear()
        stamps.current = []
      } finally {
        busy.current = false
      }
    },
    [turn, measure, study, places, timed, give, fields, watch, asked, practice, rung],
  )

  const voidIt = useCallback(
    (fault: string) => {
      setSheet('none')
      if (!turn) return
      give(turn, { state: 'void', fault, readings: readingsOf(places, texts, stamps.current) })
      setSaid({ text: `Void: ${fault}. ${labelOf(study, turn.level)} comes again.`, bad: false })
      fields.clear()
      watch.clear()
      stamps.current = []
    },
    [turn, give, places, texts, study, fields, watch],
  )

  const last = seen.at(-1)
  const undo = useCallback(() => {
    if (!last) return
    putBack(study.id, turnKey(last), study.draft, last.readings)
    setPractice(last.practice)
    void queue.add({ kind: 'trial', studyId: study.id, id: last.id, body: { ...bodyOf(last), state: 'withdrawn', revision: last.revision + 1 } })
    watch.clear()
    goTo(study.turns.find((t) => turnKey(t) === turnKey(last)))
    setSaid({
      text: `Taken back: ${last.state === 'void' ? 'the void trial' : firstWritten(study, last)} for ${labelOf(study, last.level)}. It is in the field again.`,
      bad: false,
    })
  }, [last, study, watch, goTo])

  const press = useCallback(
    (at: number) => {
      if (!turn || !timed) return
      const time = watch.press(at)
      if (time === null) {
        stamps.current = [at / 1000]
        return
      }
      stamps.current = [stamps.current[0] ?? at / 1000, at / 1000]
      fields.setText('0', time)
      if (places.length === 1) void keep({ ...texts, '0': time })
    },
    [turn, timed, watch, fields, places.length, texts, keep],
  )

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

  useEffect(() => {
    // When a sheet closes, what is typed next belongs to the reading again.
    if (sheet !== 'none' || !window.matchMedia('(min-width: 768px)').matches) return
    const timer = setTimeout(() => document.getElementById('timer-0')?.focus(), 0)
    return () => clearTimeout(timer)
  }, [sheet])

  // before the next key can come: what it means depends on what is open
  useLayoutEffect(() => {
    const words = measure.scale === 'outcome'
    const hear = (e: KeyboardEvent) => {
      if ((sheet !== 'none' && !(sheet === 'count' && e.key === ' ')) || e.ctrlKey || e.metaKey || document.querySelector('[role=dialog]')) return
      const input = e.target instanceof HTMLInputElement ? e.target : null
      if (e.target instanceof HTMLSelectElement) return
      const empty = !input || input.value === '' // while a field holds text, a letter is text
      const letter = e.key.toLowerCase()
      if (e.key === ' ' && timed && empty && !(e.target instanceof HTMLButtonElement && !e.target.dataset.press)) {
        e.preventDefault()
        setSheet('none')
        if (!e.repeat) press(e.timeStamp)
      } else if (letter === 'v' && empty) {
        e.preventDefault()
        setSheet('fault')
      } else if (letter === 'z' && empty) {
        e.preventDefault()
        undo()
      } else if (letter === 'p' && empty) {
        e.preventDefault()
        setPractice((on) => !on)
      } else if (letter === 'n' && empty) {
        e.preventDefault()
        setSheet('now')
      } else if (words && empty && /^[1-9]$/.test(e.key)) {
        e.preventDefault()
        pickOutcome(Number(e.key))
      } else if (words && !input && e.key === 'Enter' && !(e.target instanceof HTMLButtonElement && !e.target.dataset.outcome)) {
        e.preventDefault()
        enter()
      } else if (letter === 'd' && empty) {
        e.preventDefault()
        setSheet('count')
      } else if (!input && /^[\d.,~<>≥≤½¼¾]$/.test(e.key)) {
        document.getElementById('timer-0')?.focus() // the digit itself then goes into the field
      } else if (e.key === '?' && empty) {
        e.preventDefault()
        setSheet('keys')
      }
    }
    window.addEventListener('keydown', hear)
    return () => window.removeEventListener('keydown', hear)
  }, [sheet, timed, press, undo, measure.scale, pickOutcome, enter])

  const levels = tapeLevels(study, seen, turn?.level, fresh).map((l, i) => {
    const s = analysis.data?.levels.find((x) => levelIndex(study, x.level) === i)
    const current = s && s.n_kept === countKept(seen, study.levels[i]?.id)
    return current && s.n_kept >= SHOWN_FROM ? { ...l, ...flagOf(s, study), low: s.min, high: s.max } : l
  })
  const rungs =
    measure.quantity === 'length' && measure.scale === 'quantity' && study.draft.drop?.unit === measure.unit
      ? (study.draft.drop?.heights ?? []).map(plainNumber).filter((v): v is number => v !== null)
      : []
  const span = rungs.length ? [0, Math.max(...rungs)] : []
  const pending = (measure.timers ?? 1) === 1 && isNumber(measure) ? plainNumber(texts['0']) : null
  const caption = `Readings so far: ${study.levels.map((l) => `${l.label} ${countKept(seen, l.id)} kept`).join(', ')}.`
  return (
    <div className="flex grow flex-col">
      {turn ? (
        <div className="grid grow grid-cols-[minmax(0,1fr)] content-start md:grid-cols-[minmax(15rem,1fr)_minmax(24rem,1.45fr)_minmax(12rem,0.62fr)]">
          <Who
            study={study}
            turn={turn}
            seen={seen}
            next={left.find((t) => turnKey(t) !== turnKey(turn))}
            taken={taken}
            released={[own.version ? `${own.device} version ${own.version}` : '', now.person].filter(Boolean).join(', ')}
            onAgreed={() => setSheet('agreed')}
          />
          <ReadingEntry
            study={study}
            family={family}
            fields={fields}
            watch={watch}
            said={{ ...said, text: said.bad ? said.text : `${said.text}${worked(seen, fresh)}` }}
            lastKept={last?.state === 'kept' ? last : undefined}
            practice={practice}
            rung={rung}
            onPractice={() => setPractice((on) => !on)}
            onNow={() => setSheet('now')}
            onPress={press}
            onKeep={enter}
            onVoid={() => setSheet('fault')}
            onUndo={undo}
            onCount={() => setSheet('count')}
            onKeys={() => setSheet('keys')}
          />
          <Then study={study} left={left.filter((t) => turnKey(t) !== turnKey(turn))} seen={seen} />
        </div>
      ) : (
        <Done study={study} onUndo={undo} said={said.text} />
      )}
      <div className="px-4 pb-4 md:px-8">
        {study.rungs.length ? (
          <Ladder study={study} seen={seen} now={turn} />
        ) : measure.scale === 'outcome' ? (
          <Shares study={study} seen={seen} />
        ) : (
          <>
            <div className="md:hidden">
              <Tape levels={levels.filter((l) => l.now || !turn)} unit={measure.unit ?? ''} caption={caption} pending={pending} span={span} />
            </div>
            <div className="max-md:hidden">
              <Tape levels={levels} unit={measure.unit ?? ''} caption={caption} pending={pending} span={span} />
            </div>
          </>
        )}
      </div>
      <FaultSheet open={sheet === 'fault'} faults={family.faults} onClose={() => setSheet('none')} onFault={voidIt} />
      <Sheet open={sheet === 'agreed'} onClose={() => setSheet('none')} title="What was agreed">
        <Agreed study={study} />
      </Sheet>
      <KeySheet open={sheet === 'keys'} onClose={() => setSheet('none')} timed={timed} words={measure.scale === 'outcome'} />
      <NowSheet open={sheet === 'now'} onClose={() => setSheet('none')} study={study} now={now} onNow={setNow} />
      {sheet === 'count' ? <CountDown onEnd={() => setSheet('none')} /> : null}
    </div>
  )
}

/** The turn in hand: the next one that is left; or the one that something is typed or timed for, whatever comes before it meanwhile: what
 *  was typed stays in sight, and kept when another screen has filled the turn (`taken`) it becomes a further trial of it. */
function useTurn(studyId: string, left: readonly Turn[], running: boolean): { turn: Turn | undefined; taken: boolean; goTo: (turn: Turn | undefined) => void } {
  const [held, goTo] = useState<Turn>()
  const written = held !== undefined && (running || typed.get(entryKey(studyId, turnKey(held), '0')).trim() !== '')
  const turn = written ? held : left[0]
  if (turn && (!held || turnKey(turn) !== turnKey(held))) goTo(turn)
  return { turn, taken: written && !left.some((t) => turnKey(t) === turnKey(held)), goTo }
}

/** A reading as it was just written. */
const said_ = (r: ReadingGiven): string => (r.texts ?? []).map((t) => withUnit(t, r.unit ?? '')).join(', ')

/** What was worked out from the trial just kept: " 1.41 m/s descent speed." */
function worked(seen: readonly SeenTrial[], fresh: string | undefined): string {
  const found = seen.find((t) => t.id === fresh)?.derived.filter((d) => d.text) ?? []
  return found.length ? ` ${found.map((d) => d.text).join(', ')}.` : ''
}

/** What stands before keeping: a refusal, or a question about a reading that is out of line; null when nothing does. */
async function questionBefore(study: Study, readings: readonly ReadingGiven[]): Promise<{ of: string; says: string; refused: boolean } | null> {
  const first = firstOf(study.draft)
  for (const r of readings) {
    const measure = study.draft.measures.find((m) => m.id === r.measure)
    if (!measure || !isNumber(measure)) continue
    const written = r.texts ?? []
    const main = measure.id === first.id
    const plain = written.length === 1 && (main ? inLine(study, measure, written[0] ?? '') : plainNumber(written[0]) !== null)
    if (plain) continue
    const echo = await look(study, measure, written)
    const of = written.join('|')
    if (echo.state === 'refused') return { of, says: echo.says, refused: true }
    if (echo.state === 'read' && echo.asks && main) return { of, says: echo.asks, refused: false }
    // without a network only what a plain number shows by itself can be asked about
    if (echo.state === 'unasked' && main && written.some((t) => plainNumber(t) !== null && !inLine(study, measure, t)))
      return { of, says: `${written.join(', ')} ${measure.unit} is far from the other readings. Is the unit right, and the decimal mark?`, refused: false }
  }
  return null
}
