import { useCallback, useEffect, useRef, useState, useSyncExternalStore } from 'react'
import { v4 as uuid } from 'uuid'
import type { Family, Study, Trial, TrialBody, Turn } from '../../data/api'
import { typed } from '../../data/keep'
import { useAnalysis } from '../../data/queries'
import { bodyOf, labelOf, levelIndex } from '../../data/trials'
import { useTrialsSeen } from '../../data/useTrialsSeen'
import { queue } from '../../machines/saveQueue'
import { Stopwatch } from '../../machines/stopwatch'
import { countKept, plainNumber, remaining, turnKey } from '../../machines/turns'
import { Sheet } from '../../parts/parts'
import { flagOf, tapeLevels } from '../../tape/marks'
import { Tape } from '../../tape/Tape'
import { Agreed, Done, Then, Who } from './Called'
import { FaultSheet } from './FaultSheet'
import { KeySheet } from './Keys'
import { CountDown, ReadingEntry } from './ReadingEntry'
import { entryKey, inLine, look, putBack, useEntry } from './useEntry'

/** From so many trials on a mean is worth a flag while the run goes on. */
const SHOWN_FROM = 3

/** The lane: who and what is next, the reading, keep or void, and the tape filling up. */
export function Lane({ study, stored, family }: { study: Study; stored: Trial[]; family: Family }) {
  const seen = useTrialsSeen(study.id, stored)
  const left = remaining(study.turns, seen)
  const [watch] = useState(() => new Stopwatch())
  const running = useSyncExternalStore(watch.subscribe, () => watch.snapshot.state === 'running')
  const { turn, taken, goTo } = useTurn(study.id, left, running)
  const { measure } = study.draft
  const timed = Boolean(measure.timed)
  const timers = measure.timers ?? 1
  const fields = useEntry(study.id, turn ? turnKey(turn) : 'none', timers)
  const { entry } = fields
  const [said, setSaid] = useState<{ text: string; bad: boolean }>({ text: '', bad: false })
  const [fresh, setFresh] = useState<string>()
  const [sheet, setSheet] = useState<'none' | 'fault' | 'keys' | 'count' | 'agreed'>('none')
  const [asked, setAsked] = useState('')
  const busy = useRef(false)
  const analysis = useAnalysis(study.id)

  const give = useCallback(
    (t: Turn, part: Partial<TrialBody>, id: string = uuid()) => {
      const body: TrialBody = {
        block: t.block, level: t.level, group: t.group, person: '', device: '', texts: [], unit: measure.unit ?? '', also_text: '', also_unit: study.draft.also?.unit ?? '', behaviour: '',
        state: 'kept', fault: '', note: '', placed: false, plan_version: study.version, released_at: new Date().toISOString(), revision: 1, ...part,
      }
      void queue.add({ kind: 'trial', studyId: study.id, id, body })
      return id
    },
    [study.id, study.version, study.draft.also?.unit, measure.unit],
  )

  const keep = useCallback(
    async (texts: string[]) => {
      if (!turn || busy.current) return
      busy.current = true
      try {
        const written = texts.filter((t) => t.trim() !== '')
        if (written.length === 0) {
          setSaid({ text: timed ? 'No time yet: press Release, or type the time.' : 'Nothing is written yet. Type the reading, or void the trial.', bad: true })
          return
        }
        const question = await questionBefore(study, written, entry.also)
        if (question && (question.refused || asked !== question.of)) {
          setAsked(question.refused ? '' : question.of)
          setSaid({ text: question.refused ? question.says : `${question.says} Keep it again if it is what was read.`, bad: true })
          return
        }
        setAsked('')
        const id = give(turn, { texts: written, also_text: entry.also, behaviour: entry.behaviour })
        setFresh(id)
        setSaid({ text: `Kept ${written.join(', ')}${/[a-z°"'+]\s*$/i.test(written.at(-1) ?? '') ? '' : ` ${measure.unit}`} for ${labelOf(study, turn.level)}, ${turn.group || 'this class'}.`, bad: false })
        fields.clear()
        watch.clear()
      } finally {
        busy.current = false
      }
    },
    [turn, measure, study, entry.also, entry.behaviour, timed, give, fields, watch, asked],
  )

  const voidIt = useCallback(
    (fault: string) => {
      setSheet('none')
      if (!turn) return
      give(turn, { state: 'void', fault, texts: entry.texts.filter((t) => t.trim() !== ''), also_text: '', behaviour: entry.behaviour })
      setSaid({ text: `Void: ${fault}. ${labelOf(study, turn.level)} comes again.`, bad: false })
      fields.clear()
      watch.clear()
    },
    [turn, give, entry, study, fields, watch],
  )

  const last = seen.at(-1)
  const undo = useCallback(() => {
    if (!last) return
    putBack(study.id, turnKey(last), last.texts, last.also_text, last.behaviour)
    void queue.add({ kind: 'trial', studyId: study.id, id: last.id, body: { ...bodyOf(last), state: 'withdrawn', revision: last.revision + 1 } })
    watch.clear()
    goTo(study.turns.find((t) => turnKey(t) === turnKey(last)))
    setSaid({ text: `Taken back: ${last.state === 'void' ? 'the void trial' : last.texts.join(', ')} for ${labelOf(study, last.level)}. It is in the field again.`, bad: false })
  }, [last, study, watch, goTo])

  const press = useCallback(
    (at: number) => {
      if (!turn || !timed) return
      const time = watch.press(at)
      if (time === null) return
      fields.setText(0, time)
      if (timers === 1 && !study.draft.also) void keep([time])
    },
    [turn, timed, watch, fields, timers, study.draft.also, keep],
  )

  const enter = useCallback(() => void keep(entry.texts), [keep, entry.texts])

  useEffect(() => {
    // When a sheet closes, what is typed next belongs to the reading again.
    if (sheet !== 'none' || !window.matchMedia('(min-width: 768px)').matches) return
    const timer = setTimeout(() => document.getElementById('timer-0')?.focus(), 0)
    return () => clearTimeout(timer)
  }, [sheet])

  useEffect(() => {
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
  }, [sheet, timed, press, undo])

  const levels = tapeLevels(study, seen, turn?.level, fresh).map((l, i) => {
    const s = analysis.data?.levels.find((x) => levelIndex(study, x.level) === i)
    const current = s && s.n_kept === countKept(seen, study.levels[i]?.text)
    return current && s.n_kept >= SHOWN_FROM ? { ...l, ...flagOf(s, study), low: s.min, high: s.max } : l
  })
  const rungs = measure.quantity === 'length' && study.draft.drop?.unit === measure.unit ? (study.draft.drop?.heights ?? []).map(plainNumber).filter((v): v is number => v !== null) : []
  const span = rungs.length ? [0, Math.max(...rungs)] : []
  const pending = entry.texts.length === 1 ? plainNumber(entry.texts[0]) : null
  const caption = `Readings so far: ${study.levels.map((l) => `${l.label} ${countKept(seen, l.text)} kept`).join(', ')}.`
  return (
    <div className="flex grow flex-col">
      {turn ? (
        <div className="grid grow content-start md:grid-cols-[minmax(15rem,1fr)_minmax(24rem,1.45fr)_minmax(12rem,0.62fr)]">
          <Who study={study} turn={turn} seen={seen} next={left.find((t) => turnKey(t) !== turnKey(turn))} taken={taken} onAgreed={() => setSheet('agreed')} />
          <ReadingEntry study={study} family={family} fields={fields} watch={watch} said={said} lastKept={last?.state === 'kept' ? last : undefined}
            onPress={press} onKeep={enter} onVoid={() => setSheet('fault')} onUndo={undo} onCount={() => setSheet('count')} onKeys={() => setSheet('keys')} />
          <Then study={study} left={left.filter((t) => turnKey(t) !== turnKey(turn))} seen={seen} />
        </div>
      ) : (
        <Done study={study} onUndo={undo} said={said.text} />
      )}
      <div className="px-4 pb-4 md:px-8">
        <div className="md:hidden">
          <Tape levels={levels.filter((l) => l.now || !turn)} unit={measure.unit ?? ''} caption={caption} pending={pending} span={span} />
        </div>
        <div className="max-md:hidden">
          <Tape levels={levels} unit={measure.unit ?? ''} caption={caption} pending={pending} span={span} />
        </div>
      </div>
      <FaultSheet open={sheet === 'fault'} faults={family.faults} onClose={() => setSheet('none')} onFault={voidIt} />
      <Sheet open={sheet === 'agreed'} onClose={() => setSheet('none')} title="What was agreed">
        <Agreed study={study} />
      </Sheet>
      <KeySheet open={sheet === 'keys'} onClose={() => setSheet('none')} timed={timed} />
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

/** What stands before keeping: a refusal, or a question about a reading that is out of line; null when nothing does. */
async function questionBefore(study: Study, written: string[], also: string): Promise<{ of: string; says: string; refused: boolean } | null> {
  const checks = [
    ...(written.length === 1 && inLine(study, written[0] ?? '') ? [] : [{ texts: written, second: false }]),
    ...(also.trim() && study.draft.also && plainNumber(also) === null ? [{ texts: [also], second: true }] : []),
  ]
  for (const { texts, second } of checks) {
    const echo = await look(study, texts, second)
    const of = texts.join('|')
    if (echo.state === 'refused') return { of, says: echo.says, refused: true }
    if (echo.state === 'read' && echo.asks && !second) return { of, says: echo.asks, refused: false }
    // without a network only what a plain number shows by itself can be asked about
    if (echo.state === 'unasked' && !second && texts.some((t) => plainNumber(t) !== null && !inLine(study, t)))
      return { of, says: `${texts.join(', ')} ${study.draft.measure.unit ?? ''} is far from the other readings. Is the unit right, and the decimal mark?`, refused: false }
  }
  return null
}
