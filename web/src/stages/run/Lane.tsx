import { useCallback, useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import { v4 as uuid } from 'uuid'
import type { Family, Study, Trial, TrialBody, Turn } from '../../data/api'
import { useAnalysis } from '../../data/queries'
import { queue } from '../../machines/saveQueue'
import { Stopwatch } from '../../machines/stopwatch'
import { countKept, plainNumber, remaining, type SeenTrial } from '../../machines/turns'
import { Key, Shape } from '../../parts/parts'
import { Tape } from '../../tape/Tape'
import { FaultSheet } from './FaultSheet'
import { KeySheet } from './Keys'
import { flagOf, tapeLevels } from './marks'
import { CountDown, ReadingEntry } from './ReadingEntry'
import { putBack, understand, useEntry } from './useEntry'
import { useTrialsSeen } from './useTrialsSeen'

/** From so many trials on a mean is worth a flag while the run goes on. */
const SHOWN_FROM = 3
const turnKey = (t: { block: number; level: string }) => `${t.block}:${t.level}`

/** The lane: who and what is next, the reading, keep or void, and the tape filling up. */
export function Lane({ study, stored, family }: { study: Study; stored: Trial[]; family: Family }) {
  const seen = useTrialsSeen(study.id, stored)
  const left = remaining(study.turns, seen)
  const turn = left[0]
  const [watch] = useState(() => new Stopwatch())
  const { measure } = study.draft
  const timed = Boolean(measure.timed)
  const timers = measure.timers ?? 1
  const fields = useEntry(study.id, turn ? turnKey(turn) : 'none', timers)
  const { entry } = fields
  const [said, setSaid] = useState<{ text: string; bad: boolean }>({ text: '', bad: false })
  const [fresh, setFresh] = useState<string>()
  const [sheet, setSheet] = useState<'none' | 'fault' | 'keys' | 'count'>('none')
  const busy = useRef(false)
  const analysis = useAnalysis(study.id)

  const give = useCallback(
    (t: Turn, part: Partial<TrialBody>, id: string = uuid()) => {
      const body: TrialBody = {
        block: t.block, level: t.level, group: t.group, person: t.group, texts: [], also_text: '', behaviour: '', state: 'kept', fault: '', note: '',
        released_at: new Date().toISOString(), revision: 1, ...part,
      }
      void queue.add({ kind: 'trial', studyId: study.id, id, body })
      return id
    },
    [study.id],
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
        for (const [text, m] of [...written.map((t) => [t, measure] as const), ...(entry.also.trim() && study.draft.also ? [[entry.also, study.draft.also] as const] : [])]) {
          if (plainNumber(text) !== null) continue
          const echo = await understand(text, m)
          if (echo.state === 'refused') {
            setSaid({ text: echo.says, bad: true })
            return
          }
        }
        const id = give(turn, { texts: written, also_text: entry.also, behaviour: entry.behaviour })
        setFresh(id)
        setSaid({ text: `Kept ${written.join(', ')}${/[a-z°"'+]\s*$/i.test(written.at(-1) ?? '') ? '' : ` ${measure.unit}`} for ${labelOf(study, turn.level)}, ${turn.group || 'this class'}.`, bad: false })
        fields.clear()
        watch.clear()
      } finally {
        busy.current = false
      }
    },
    [turn, measure, study, entry.also, entry.behaviour, timed, give, fields, watch],
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
    const { id, reading: _r, saved: _s, says: _w, ...rest } = last as SeenTrial & { also_reading?: unknown }
    delete (rest as { also_reading?: unknown }).also_reading
    putBack(study.id, turnKey(last), last.texts, last.also_text, last.behaviour)
    void queue.add({ kind: 'trial', studyId: study.id, id, body: { ...rest, state: 'withdrawn', revision: last.revision + 1 } as TrialBody })
    watch.clear()
    setSaid({ text: `Taken back: ${last.state === 'void' ? 'the void trial' : last.texts.join(', ')} for ${labelOf(study, last.level)}. It is in the field again.`, bad: false })
  }, [last, study, watch])

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
      const empty = !input || input.value === ''
      const letter = e.key.toLowerCase()
      if (e.key === ' ' && timed && !(input?.dataset.words && !empty) && !(e.target instanceof HTMLButtonElement && !e.target.dataset.press)) {
        e.preventDefault()
        setSheet('none')
        if (!e.repeat) press(e.timeStamp)
      } else if (letter === 'v' && (measure.quantity !== 'voltage' || empty)) {
        e.preventDefault()
        setSheet('fault')
      } else if (letter === 'z') {
        e.preventDefault()
        undo()
      } else if (letter === 'd' && empty) {
        e.preventDefault()
        setSheet('count')
      } else if (!input && /^[\d.,~<>≥≤½¼¾]$/.test(e.key)) {
        document.getElementById('timer-0')?.focus() // the digit itself then goes into the field
      } else if (e.key === '?') {
        e.preventDefault()
        setSheet('keys')
      }
    }
    window.addEventListener('keydown', hear)
    return () => window.removeEventListener('keydown', hear)
  }, [sheet, timed, press, undo, measure.quantity])

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
          <Who study={study} turn={turn} seen={seen} next={left[1]} />
          <ReadingEntry study={study} family={family} fields={fields} watch={watch} said={said} lastKept={last?.state === 'kept' ? last : undefined}
            onPress={press} onKeep={enter} onVoid={() => setSheet('fault')} onUndo={undo} onCount={() => setSheet('count')} onKeys={() => setSheet('keys')} />
          <Then study={study} left={left.slice(1)} seen={seen} />
        </div>
      ) : (
        <Done study={study} seen={seen} onUndo={undo} said={said.text} />
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
      <KeySheet open={sheet === 'keys'} onClose={() => setSheet('none')} timed={timed} />
      {sheet === 'count' ? <CountDown onEnd={() => setSheet('none')} /> : null}
    </div>
  )
}

export const labelOf = (study: Study, level: string): string => study.levels.find((l) => l.text === level)?.label ?? level
export const levelIndex = (study: Study, level: string | number): number =>
  study.levels.findIndex((l) => l.text === level || Number(l.text.replace('−', '-')) === level)

function Who({ study, turn, seen, next }: { study: Study; turn: Turn; seen: SeenTrial[]; next: Turn | undefined }) {
  const n = countKept(seen, turn.level) + 1
  const at = levelIndex(study, turn.level)
  const practice = study.draft.practice ?? 0
  return (
    <section aria-label="Now on the lane" className="px-4 pt-3 md:px-8 md:pt-7">
      <div className="flex items-end justify-between gap-4 md:block" aria-live="polite">
        <h1 className="big m-0 text-[2.9rem] md:text-[5.2rem]" style={{ fontStretch: '68%' }}>
          {turn.group || 'Next'}
        </h1>
        <p className="m-0 pb-1 text-[1.1rem] text-quiet md:hidden">
          {n} of {study.draft.repeats}
        </p>
      </div>
      <p className="big m-0 mt-0 flex flex-wrap items-center gap-x-4 text-[1.9rem] md:mt-3 md:text-[2.9rem]">
        <Shape n={at} size={34} />
        {labelOf(study, turn.level)}
        <span className="text-[1.15rem] font-normal text-quiet max-md:hidden" style={{ fontFamily: 'var(--font-text)', fontStretch: '100%' }}>
          trial {n} of {study.draft.repeats}
        </span>
      </p>
      <p className="mt-5 mb-0 hidden text-[1.1rem] md:block">
        {study.draft.variable.name}: <strong>{labelOf(study, turn.level)}</strong>
        {next && next.level !== turn.level ? <> (then {labelOf(study, next.level)})</> : null}
      </p>
      {practice && countKept(seen) === 0 ? (
        <p className="m-0 mt-1 text-[1.02rem] md:mt-3" data-practice>
          First {practice === 1 ? 'one practice release' : `${practice} practice releases`} for each group. {practice === 1 ? 'It does not count' : 'They do not count'}: look for misfires and tangles.
        </p>
      ) : null}
      <p className="mb-0 mt-2 hidden text-quiet md:block">Is the lane clear?</p>
      <Agreed study={study} />
    </section>
  )
}

/** What the plan agreed on, where it is needed: at the lane. */
function Agreed({ study }: { study: Study }) {
  const { start_line, void_rule } = study.draft
  if (!start_line && !void_rule) return null
  return (
    <dl className="mb-0 mt-4 hidden text-[0.98rem] md:block">
      {start_line ? (
        <>
          <dt className="font-semibold text-quiet">Start line</dt>
          <dd className="m-0 mb-2">{start_line}</dd>
        </>
      ) : null}
      {void_rule ? (
        <>
          <dt className="font-semibold text-quiet">Void when</dt>
          <dd className="m-0">{void_rule}</dd>
        </>
      ) : null}
    </dl>
  )
}

function Then({ study, left, seen }: { study: Study; left: Turn[]; seen: SeenTrial[] }) {
  const voids = seen.filter((t) => t.state === 'void').length
  return (
    <section aria-label="Then" className="hidden px-5 pt-7 md:block md:border-l-2 md:border-hair">
      <p className="m-0 font-semibold text-quiet">Then</p>
      <ol className="m-0 list-none p-0">
        {left.slice(0, 5).map((t) => (
          <li key={turnKey(t)} className="flex items-center gap-3 border-b border-hair py-2">
            <Shape n={levelIndex(study, t.level)} size={18} />
            <span className="grow font-semibold">{t.group || 'Class'}</span>
            <span className="big text-[1.05rem]">{labelOf(study, t.level)}</span>
          </li>
        ))}
      </ol>
      <p className="mb-0">
        {countKept(seen)} of {study.planned} kept{voids ? `, ${voids} void` : ''}
      </p>
    </section>
  )
}

function Done({ study, seen, onUndo, said }: { study: Study; seen: SeenTrial[]; onUndo: () => void; said: string }) {
  return (
    <section className="px-4 pt-8 md:px-8">
      <h1 className="m-0 text-[3.6rem]">All {countKept(seen)} trials are in</h1>
      <p className="text-[1.15rem]" role="status">
        {said}
      </p>
      <div className="mt-4 flex flex-wrap gap-4">
        <Link to={`/study/${study.id}/work-out`} className="btn btn-act min-h-[64px] px-8 text-[1.25rem]">
          Read the verdict
        </Link>
        <button type="button" className="btn" onClick={onUndo}>
          Undo <Key>Z</Key>
        </button>
      </div>
    </section>
  )
}
