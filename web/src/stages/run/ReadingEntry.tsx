import { Suspense, useEffect, useRef } from 'react'
import type { Family, Question, Study } from '../../data/api'
import { firstOf, type Place, scaleOf, unitSaid, withUnit } from '../../data/measures'
import { phaseOf, type RunNow } from '../../machines/trialRun'
import { soon } from '../../parts/soon'
import { Elapsed } from './Elapsed'
import { LaneButtons, type Open, Pressed } from './LaneButtons'
import { Rungs } from './Rungs'
import type { Hands, PhoneTime } from './phonesGave'
import { type Echo, useEcho, type useEntry } from './useEntry'
import { Behaviours, Outcomes, Places } from './Words'

const Phones = soon(async () => ({ default: (await import('./Phones')).Phones }))

type Props = {
  study: Study
  family: Family
  fields: ReturnType<typeof useEntry>
  now: RunNow
  said: { text: string; bad: boolean }
  asked: readonly Question[]
  hands: Hands
  onTakeTime: (t: PhoneTime) => void
  level: string
  practice: boolean
  map: boolean
  rung: number | null
  onOffer: () => void
  onLap: (at: number) => void
  onSheet: (sheet: Open) => void
  onPractice: () => void
  onPress: (at: number) => void
  onKeep: () => void
  onUndo: () => void
  onSkip: (() => void) | undefined
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

/** Where the cursor goes after one place is written: the next empty one, or nowhere. */
export const fieldId = (p: Place): string =>
  p.name === '0' ? 'timer-0' : p.measure.id === 'm1' || /^\d$/.test(p.name) ? `timer-${p.name}` : `at-${p.name.replaceAll('.', '-')}`

/** The reading: a large line to write on, and for timed measures one large target; words to press where the scale is words. */
export function ReadingEntry({
  study,
  family,
  fields,
  now,
  said,
  asked,
  hands,
  onTakeTime,
  level,
  practice,
  map,
  rung,
  onOffer,
  onLap,
  onSheet,
  onPractice,
  onPress,
  onKeep,
  onUndo,
  onSkip,
}: Props) {
  const measure = firstOf(study.draft)
  const { texts, places } = fields
  const main = useRef<HTMLInputElement>(null)
  const keeps = useRef(false)
  const first = places[0] as Place
  const timers = places.filter((p) => p.measure.id === measure.id && p.payload === 1)
  const rest = places.filter((p) => !timers.includes(p))
  const timed = Boolean(measure.timed)
  const numeric = scaleOf(measure).number
  const state = phaseOf(now)
  const echo = useEcho(
    study,
    measure,
    timers.map((p) => texts[p.name] ?? ''),
    level,
  )
  useEffect(() => {
    // On a wide screen the field is ready for digits; on a phone the keyboard would cover the target.
    if (window.matchMedia('(min-width: 768px)').matches) main.current?.focus()
  }, [])
  useEffect(() => {
    // After landing, the next place is ready to be written in.
    const next = places[1]
    if (state === 'ended' && next) document.getElementById(fieldId(next))?.focus()
  }, [state, places])
  const enter = (from: Place) => {
    const at = places.indexOf(from)
    const written = (texts[from.name] ?? '').trim() !== ''
    const next = places.find((p, i) => i > at && scaleOf(p.measure).number && (texts[p.name] ?? '').trim() === '')
    // a second Enter on an empty further place keeps what there is
    if (next && written && (at === 0 || from.measure.id === measure.id)) {
      document.getElementById(fieldId(next))?.focus()
      return
    }
    onKeep()
    main.current?.focus()
  }
  const value = texts['0'] ?? ''
  const hint = said.bad ? said.text : echoSays(echo, measure.unit ?? '') || said.text
  const bad = said.bad || echo.state === 'refused'
  const doubt = echo.state === 'read' && !said.bad ? (echo.questions[0]?.says ?? null) : null
  const offer = asked.find((q) => q.offer)?.offer
  return (
    <section aria-label="Reading" className="min-w-0 px-4 pt-1 md:border-l-2 md:border-hair md:px-8 md:pt-7 md:max-lg:row-span-2">
      <label htmlFor="timer-0" className="m-0 block font-semibold text-quiet first-letter:uppercase">
        {practice ? 'Practice, not counted: ' : ''}
        {first.payloadName ? `${measure.name}, ${first.payloadName}` : measure.name}
        {rung === null ? '' : `, from ${withUnit(String(rung), study.draft.drop?.unit ?? 'm')}`}
      </label>
      {numeric ? (
        <div className="flex items-baseline gap-4 border-b-[6px] border-ink md:max-w-[30rem]">
          {timed && state === 'running' ? (
            <span className="big grow text-[4.2rem] leading-[1.05] md:text-[5.4rem]" role="timer" aria-label="Time running">
              <Elapsed from={now.from ?? 0} />
            </span>
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
              style={{ fontStretch: value.length > 7 ? '62%' : '72%', fontSize: value.length > 10 ? '2.6rem' : undefined }}
              placeholder={timed ? '0.00' : '–'}
              value={value}
              onChange={(e) => fields.setText('0', e.target.value)}
              onKeyDown={(e) => {
                if (e.key === 'Enter') {
                  e.preventDefault()
                  enter(first)
                }
              }}
            />
          )}
          <span className="big text-[2.2rem] text-quiet">{unitSaid(measure)}</span>
          {measure.quantity === 'count' ? (
            <button
              type="button"
              className="btn big my-2 min-h-[72px] min-w-[72px] text-[2.2rem]"
              aria-label="One more"
              onClick={() => fields.setText('0', String((Number.parseInt(value, 10) || 0) + 1))}
            >
              +
            </button>
          ) : null}
        </div>
      ) : scaleOf(measure).shape === 'places' ? (
        <Places measure={measure} value={value} most={study.levels.length} onPick={(t) => fields.setText('0', t)} />
      ) : (
        <Outcomes measure={measure} value={value} keys big onPick={(t) => fields.setText('0', t)} />
      )}
      <p
        id="reading-says"
        role="status"
        aria-live="polite"
        className={`m-0 mt-1 min-h-[1.6rem] ${bad ? 'font-semibold text-doubt' : 'text-quiet'}`}
        data-says={bad || undefined}
      >
        {hint || <span className="max-md:hidden">{study.timing || measure.rule}</span>}
        {doubt ? <span className="font-semibold text-doubt"> {doubt}</span> : null}
      </p>
      {asked.length ? (
        <p className="m-0 mt-1 flex flex-wrap gap-2.5" data-asked>
          <button type="button" className="btn" onClick={onKeep}>
            It is what was read <Pressed>Enter</Pressed>
          </button>
          {offer ? (
            <button type="button" className="btn" onClick={onOffer}>
              Write {offer} <Pressed>+</Pressed>
            </button>
          ) : null}
        </p>
      ) : null}
      <Rungs study={study} text={value} onPick={(text) => fields.setText('0', text)} />
      <div className="md:flex md:max-w-[34rem] md:items-stretch md:gap-5">
        {timed ? (
          <button
            type="button"
            data-press
            className={`btn mt-2 w-full flex-col border-0 text-[2.6rem] md:min-w-0 md:max-w-[30rem] md:basis-[30rem] ${state === 'running' ? 'bg-tape text-tape-ink' : 'btn-act'} ${places.length > 1 ? 'min-h-[19vh]' : 'min-h-[26vh]'} md:min-h-[96px]`}
            style={{ touchAction: 'manipulation' }}
            onPointerDown={(e) => {
              // the press that landed it ends on this button as well: only one that begins after it keeps
              keeps.current = state === 'ended'
              if (state !== 'ended') onPress(e.timeStamp)
            }}
            onClick={(e) => {
              if (state === 'ended' && (keeps.current || e.detail === 0)) onKeep()
              keeps.current = false
            }}
          >
            <span className="big">{state === 'ready' ? 'Release' : state === 'running' ? 'Landed' : 'Keep it'}</span>
            <span className="text-[1rem] font-normal">
              {state === 'ready' ? 'press as it is let go' : state === 'running' ? 'press at first touch' : 'or void it below'}
            </span>
          </button>
        ) : null}
        {timers.length > 1 ? (
          <div className={`mt-3 flex gap-5 md:mt-2 md:grow ${timed ? 'md:shrink-0 md:basis-[11rem] md:flex-col md:justify-end md:gap-1' : ''}`}>
            {timers.slice(1).map((p) => (
              <label key={p.name} className={`grow text-[0.92rem] font-semibold text-quiet ${timed ? 'md:flex md:grow-0 md:items-center md:gap-3' : ''}`}>
                <span className="shrink-0">Timer {p.timer + 1}</span>
                <input
                  id={fieldId(p)}
                  data-words
                  inputMode="decimal"
                  autoComplete="off"
                  className="field big text-[1.6rem] text-ink"
                  value={texts[p.name] ?? ''}
                  onChange={(e) => fields.setText(p.name, e.target.value)}
                  onKeyDown={(e) => {
                    if (e.key === 'Enter') {
                      e.preventDefault()
                      enter(p)
                    }
                  }}
                />
              </label>
            ))}
          </div>
        ) : null}
      </div>
      {hands.timers.length || hands.times.length ? (
        <Suspense>
          <Phones study={study.id} hands={hands} one={timers.length === 1} onTake={onTakeTime} />
        </Suspense>
      ) : null}
      {timed && state === 'running' ? (
        <button type="button" className="btn mt-2 min-h-[56px]" onPointerDown={(e) => onLap(e.timeStamp)}>
          Mark passed <Pressed>L</Pressed>
        </button>
      ) : null}
      {rest.length ? (
        <div className="mt-3 flex gap-5 max-md:snap-x max-md:overflow-x-auto md:grid md:max-w-[34rem] md:grid-cols-2" data-further>
          {rest.map((p) => (
            <Further key={p.name} study={study} place={p} text={texts[p.name] ?? ''} onText={(t) => fields.setText(p.name, t)} onEnter={() => enter(p)} />
          ))}
        </div>
      ) : null}
      {family.behaviours.length ? <Behaviours words={family.behaviours} chosen={fields.behaviours} onToggle={fields.toggleBehaviour} /> : null}
      <LaneButtons
        study={study}
        value={value}
        written={numeric && !timed}
        running={state === 'running'}
        practice={practice}
        map={map}
        onText={(t) => {
          fields.setText('0', t)
          main.current?.focus() // so that Enter keeps it, and does not press the button again
        }}
        onKeep={onKeep}
        onUndo={onUndo}
        onSkip={onSkip}
        onPractice={onPractice}
        onSheet={onSheet}
      />
    </section>
  )
}

/** A further measure of the same trial: one Tab or swipe away. */
function Further({ study, place, text, onText, onEnter }: { study: Study; place: Place; text: string; onText: (t: string) => void; onEnter: () => void }) {
  const m = place.measure
  const echo = useEcho(study, m, [text])
  const name = place.payloadName ? `${m.name}, ${place.payloadName}` : m.name
  if (!scaleOf(m).number)
    return (
      <div className="shrink-0 snap-start max-md:w-[86%] md:col-span-2">
        <p className="m-0 text-[0.92rem] font-semibold text-quiet first-letter:uppercase">{name}</p>
        {scaleOf(m).shape === 'places' ? (
          <Places measure={m} value={text} most={study.levels.length} onPick={onText} />
        ) : (
          <Outcomes measure={m} value={text} keys={false} onPick={onText} />
        )}
      </div>
    )
  return (
    <label className="shrink-0 snap-start text-[0.92rem] font-semibold text-quiet max-md:w-[60%]">
      <span className="inline-block first-letter:uppercase">{name}</span>
      {unitSaid(m) ? ` / ${unitSaid(m)}` : ''}
      <input
        id={fieldId(place)}
        data-words
        autoComplete="off"
        className="field big text-[1.6rem] text-ink"
        aria-describedby={`${fieldId(place)}-says`}
        placeholder={m.signed ? 'left 12, right 5' : ''}
        value={text}
        onChange={(e) => onText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Enter') {
            e.preventDefault()
            onEnter()
          }
        }}
      />
      <span id={`${fieldId(place)}-says`} className={`font-normal ${echo.state === 'refused' ? 'text-doubt' : ''}`}>
        {echoSays(echo, m.unit)}
      </span>
    </label>
  )
}
