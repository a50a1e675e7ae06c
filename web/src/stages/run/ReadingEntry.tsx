import { useEffect, useRef, useState, useSyncExternalStore } from 'react'
import { Link } from 'react-router'
import type { Family, Study } from '../../data/api'
import { inSeconds, type Stopwatch } from '../../machines/stopwatch'
import type { SeenTrial } from '../../machines/turns'
import { Key } from '../../parts/parts'
import { Rungs } from './Rungs'
import { type Echo, useEcho, type useEntry } from './useEntry'

type Props = {
  study: Study
  family: Family
  fields: ReturnType<typeof useEntry>
  watch: Stopwatch
  said: { text: string; bad: boolean }
  lastKept: SeenTrial | undefined
  onPress: (at: number) => void
  onKeep: () => void
  onVoid: () => void
  onUndo: () => void
  onCount: () => void
  onKeys: () => void
}

const KINDS = { exact: '', at_least: 'at least ', at_most: 'at most ', estimate: 'about ' } as const

export function echoSays(echo: Echo, unit: string): string {
  if (echo.state === 'read') {
    const value = `${KINDS[echo.reading.kind]}${Number(echo.reading.value.toPrecision(6))} ${unit}`.replace('-', '−')
    return echo.reading.method ? `Together ${value} (the ${echo.reading.method}).` : `Read as ${value}.`
  }
  if (echo.state === 'refused') return echo.says
  if (echo.state === 'unasked') return 'Kept as written; it is read when the server can be reached.'
  return ''
}

/** The reading: a large line to write on, and for timed measures one large target. */
export function ReadingEntry({ study, family, fields, watch, said, onPress, onKeep, onVoid, onUndo, onCount, onKeys }: Props) {
  const { measure, also } = study.draft
  const { entry } = fields
  const timed = Boolean(measure.timed)
  const main = useRef<HTMLInputElement>(null)
  const second = useRef<HTMLInputElement>(null)
  const state = useSyncExternalStore(watch.subscribe, () => watch.snapshot)
  const echo = useEcho(study, entry.texts)
  const alsoEcho = useEcho(study, also ? [entry.also] : [], true)
  useEffect(() => {
    // On a wide screen the field is ready for digits; on a phone the keyboard would cover the target.
    if (window.matchMedia('(min-width: 768px)').matches) main.current?.focus()
  }, [])
  useEffect(() => {
    // After landing, the next timer's field is ready to be written in.
    if (state.state === 'ended') (document.getElementById('timer-1') ?? second.current)?.focus()
  }, [state.state])
  const enter = (from: number | 'also') => {
    if (from !== 'also') {
      const empty = entry.texts.findIndex((t, i) => i > from && t.trim() === '')
      if (empty > 0 && (entry.texts[from] ?? '').trim()) {
        document.getElementById(`timer-${empty}`)?.focus()
        return
      }
      if (also && !entry.also.trim() && (entry.texts[0] ?? '').trim() && document.activeElement !== second.current) {
        second.current?.focus()
        return
      }
    }
    onKeep()
    main.current?.focus()
  }
  const hint = said.bad ? said.text : echoSays(echo, measure.unit ?? '') || said.text
  const bad = said.bad || echo.state === 'refused'
  const doubt = echo.state === 'read' && !said.bad ? echo.asks : null
  return (
    <section aria-label="Reading" className="px-4 pt-1 md:border-l-2 md:border-hair md:px-8 md:pt-7">
      <label htmlFor="timer-0" className="m-0 block font-semibold text-quiet first-letter:uppercase">
        {measure.name}
      </label>
      <div className="flex items-baseline gap-4 border-b-[6px] border-ink md:max-w-[30rem]">
        {timed && state.state === 'running' ? (
          <Elapsed from={state.from} />
        ) : (
          <input
            ref={main}
            id="timer-0"
            autoComplete="off"
            enterKeyHint="done"
            inputMode={timed ? 'decimal' : 'text'}
            aria-invalid={bad}
            aria-describedby="reading-says"
            className="big w-full min-w-0 border-0 bg-transparent p-0 text-[4.2rem] leading-[1.05] outline-none focus:bg-tape/20 md:text-[5.4rem]"
            style={{ fontStretch: (entry.texts[0]?.length ?? 0) > 7 ? '62%' : '72%', fontSize: (entry.texts[0]?.length ?? 0) > 10 ? '2.6rem' : undefined }}
            placeholder={timed ? '0.00' : '–'}
            value={entry.texts[0] ?? ''}
            onChange={(e) => fields.setText(0, e.target.value)}
            onKeyDown={(e) => {
              if (e.key === 'Enter') {
                e.preventDefault()
                enter(0)
              }
            }}
          />
        )}
        <span className="big text-[2.2rem] text-quiet">{measure.unit}</span>
      </div>
      <p id="reading-says" role="status" aria-live="polite" className={`m-0 mt-1 min-h-[1.6rem] ${bad ? 'font-semibold text-doubt' : 'text-quiet'}`} data-says={bad || undefined}>
        {hint || <span className="max-md:hidden">{measure.rule}</span>}
        {doubt ? <span className="font-semibold text-doubt"> {doubt}</span> : null}
      </p>
      <Rungs study={study} text={entry.texts[0] ?? ''} onPick={(text) => fields.setText(0, text)} />
      {timed ? (
        <button
          type="button"
          data-press
          className={`btn mt-2 w-full flex-col border-0 text-[2.6rem] md:max-w-[30rem] ${state.state === 'running' ? 'bg-tape text-tape-ink' : 'btn-act'} ${entry.texts.length > 1 || also ? 'min-h-[19vh]' : 'min-h-[26vh]'} md:min-h-[96px]`}
          style={{ touchAction: 'manipulation' }}
          onPointerDown={(e) => onPress(e.timeStamp)}
          disabled={state.state === 'ended'}
        >
          <span className="big">{state.state === 'ready' ? 'Release' : state.state === 'running' ? 'Landed' : 'Timed'}</span>
          <span className="text-[1rem] font-normal">{state.state === 'ready' ? 'press as it is let go' : state.state === 'running' ? 'press at first touch' : 'keep it, or void it'}</span>
        </button>
      ) : null}
      {entry.texts.length > 1 ? (
        <div className="mt-3 flex gap-5 md:max-w-[30rem]">
          {entry.texts.slice(1).map((text, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a timer has no identity but its place
            <label key={i} className="grow text-[0.92rem] font-semibold text-quiet">
              Timer {i + 2}
              <input id={`timer-${i + 1}`} data-words inputMode="decimal" autoComplete="off" className="field big text-[1.6rem] text-ink" value={text} onChange={(e) => fields.setText(i + 1, e.target.value)}
                onKeyDown={(e) => {
                  if (e.key === 'Enter') {
                    e.preventDefault()
                    enter(i + 1)
                  }
                }} />
            </label>
          ))}
        </div>
      ) : null}
      {also ? (
        <div className="mt-3 grid grid-cols-2 gap-5 md:max-w-[30rem]">
          <label className="text-[0.92rem] font-semibold text-quiet">
            <span className="first-letter:uppercase inline-block">{also.name}</span> / {also.unit}
            <input ref={second} data-words autoComplete="off" className="field big text-[1.6rem] text-ink" aria-describedby="also-says" placeholder={also.signed ? 'left 12, right 5' : ''} value={entry.also} onChange={(e) => fields.setAlso(e.target.value)}
              onKeyDown={(e) => {
                if (e.key === 'Enter') {
                  e.preventDefault()
                  enter('also')
                }
              }} />
            <span id="also-says" className={`font-normal ${alsoEcho.state === 'refused' ? 'text-doubt' : ''}`}>{echoSays(alsoEcho, also.unit ?? '')}</span>
          </label>
          <label className="text-[0.92rem] font-semibold text-quiet">
            Behaviour
            <span className="pick">
              <select className="field text-ink" value={entry.behaviour} onChange={(e) => fields.setBehaviour(e.target.value)}>
                <option value="">not noted</option>
                {family.behaviours.map((b) => (
                  <option key={b}>{b}</option>
                ))}
              </select>
            </span>
          </label>
        </div>
      ) : null}
      <div className="mt-4 flex flex-wrap gap-2.5">
        <button type="button" className="btn btn-act min-h-[64px] grow text-[1.2rem] md:min-w-[9.5rem] md:grow-0" onClick={onKeep} disabled={state.state === 'running'}>
          Keep <span className="max-md:hidden"><Key>Enter</Key></span>
        </button>
        <button type="button" className="btn min-h-[64px] grow px-3 md:grow-0" onClick={onVoid}>
          Void <span className="max-md:hidden"><Key>V</Key></span>
        </button>
        {timed ? null : (
          <button type="button" className="btn min-h-[64px] grow px-3 md:grow-0" disabled={!(entry.texts[0] ?? '').trim()} onClick={() => fields.setText(0, (entry.texts[0] ?? '').endsWith('+') ? (entry.texts[0] ?? '').slice(0, -1) : `${entry.texts[0]}+`)}>
            At least <span className="max-md:hidden"><Key>+</Key></span>
          </button>
        )}
        <button type="button" className="btn min-h-[64px] grow px-3 md:grow-0" onClick={onUndo}>
          Undo <span className="max-md:hidden"><Key>Z</Key></span>
        </button>
      </div>
      <div className="mb-1 flex flex-wrap gap-2">
        <button type="button" className="btn btn-plain" onClick={onCount}>
          Count down <span className="max-md:hidden"><Key>D</Key></span>
        </button>
        <Link to={`/study/${study.id}/trials`} className="btn btn-plain md:hidden">
          All trials
        </Link>
        <button type="button" className="btn btn-plain max-md:hidden" onClick={onKeys}>
          All keys <Key>?</Key>
        </button>
      </div>
    </section>
  )
}

/** The running time, repainted with the screen; the reading itself comes from the events' stamps. */
function Elapsed({ from }: { from: number }) {
  const [ms, setMs] = useState(0)
  useEffect(() => {
    let frame = 0
    const paint = () => {
      setMs(Math.max(0, performance.now() - from))
      frame = requestAnimationFrame(paint)
    }
    frame = requestAnimationFrame(paint)
    return () => cancelAnimationFrame(frame)
  }, [from])
  return (
    <span className="big grow text-[4.2rem] leading-[1.05] md:text-[5.4rem]" role="timer" aria-label="Time running">
      {inSeconds(ms)}
    </span>
  )
}

/** Three, two, one, go: large enough for a hall. Any key or press ends it. */
export function CountDown({ onEnd }: { onEnd: () => void }) {
  const [n, setN] = useState(3)
  useEffect(() => {
    const timer = setTimeout(() => (n <= 0 ? onEnd() : setN(n - 1)), n <= 0 ? 700 : 1000)
    return () => clearTimeout(timer)
  }, [n, onEnd])
  useEffect(() => {
    const end = (e: KeyboardEvent) => {
      if (e.key === 'Escape') onEnd()
    }
    window.addEventListener('keydown', end)
    return () => window.removeEventListener('keydown', end)
  }, [onEnd])
  return (
    <button type="button" className="big fixed inset-0 z-40 grid place-items-center border-0 bg-tape text-[40vmin] text-tape-ink" onClick={onEnd} aria-label="Stop the count-down">
      <span aria-live="assertive">{n > 0 ? n : 'Go'}</span>
    </button>
  )
}
