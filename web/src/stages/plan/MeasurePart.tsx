import { useState } from 'react'
import type { Family, MeasureDraft } from '../../data/api'
import { scaleOf } from '../../data/measures'
import { SCALES } from '../../data/scales.gen'
import { Field, Pick } from '../../parts/parts'
import { CHOICES, UNITS } from '../../planning/choices.gen'
import { measureFor } from '../../planning/choose'
import { pairs } from '../../planning/words'
import { CountScale, OutcomeScale, ZoneScale } from './ScalePart'

const OTHER = '…'
/** Behaviours are words of the family, asked for at every trial: no scale to choose. */
const OFFERED = pairs(CHOICES['measures.scale']).filter(([id]) => SCALES[id].answers)
/** What a scale asks for beside name, unit and rule. */
const OF_SCALE: Record<MeasureDraft['scale'], typeof OutcomeScale | null> = {
  quantity: null,
  count: CountScale,
  outcome: OutcomeScale,
  zone: ZoneScale,
  order: null,
  behaviour: null,
}
const SO_MANY = ['one', 'two', 'three']

export function MeasurePart({
  where,
  label,
  first,
  value,
  family,
  at,
  asked,
  onChange,
  onUsual,
}: {
  where: string
  label: string
  first: boolean
  value: MeasureDraft
  family: Family | undefined
  at: (w: string) => string | undefined
  asked: (w: string) => string | undefined
  onChange: (m: MeasureDraft) => void
  onUsual: (m: MeasureDraft) => void
}) {
  const known = family?.measures.find((m) => m.name === value.name)
  const [own, setOwn] = useState(Boolean(value.name) && !known)
  const pick = (name: string) => {
    if (name === OTHER) {
      setOwn(true)
      onChange({ ...value, name: '', rule: '' })
      return
    }
    setOwn(false)
    const m = family?.measures.find((x) => x.name === name)
    if (!m) return
    const usual = measureFor(name, family)
    onUsual({ ...usual, id: value.id, timed: usual.timed && first, timers: first ? usual.timers : 1 })
  }
  const scale = scaleOf(value)
  const Of = OF_SCALE[value.scale]
  return (
    <div className="grid gap-5">
      <div className="grid gap-6 md:grid-cols-[1fr_1fr_1fr]">
        <Field
          label={label}
          says={own ? undefined : at(`${where}.name`)}
          hint={
            known
              ? `Read with: ${value.timed ? ((value.timers ?? 1) > 1 ? `${SO_MANY[(value.timers ?? 1) - 1]} stopwatches` : 'stopwatch') : known.tool}`
              : asked(`${where}.name`)
          }
        >
          {(p) => (
            <span className="pick">
              <select {...p} className="field" value={own ? OTHER : (known?.name ?? '')} onChange={(e) => pick(e.target.value)}>
                <option value="">Choose …</option>
                {family?.measures.map((m) => (
                  <option key={m.name}>{m.name}</option>
                ))}
                <option value={OTHER}>something else …</option>
              </select>
            </span>
          )}
        </Field>
        {own ? (
          <Field label="Its name" says={at(`${where}.name`)}>
            {(p) => <input {...p} className="field" value={value.name} onChange={(e) => onChange({ ...value, name: e.target.value })} />}
          </Field>
        ) : null}
        {own || scale.scored ? (
          <Pick
            label="It is read as"
            value={value.scale}
            options={OFFERED}
            onChange={(to) =>
              onChange({
                ...value,
                scale: to,
                words: SCALES[to].survives && !value.words.length ? ['untouched', 'broken'] : value.words,
                ...(SCALES[to].counted ? { quantity: 'count', unit: 'count' } : SCALES[to].scored ? { quantity: 'length', unit: 'm' } : {}),
              })
            }
          />
        ) : null}
        {scale.number ? (
          <Field label="Unit" says={at(`${where}.unit`)}>
            {(p) => (
              <span className="pick">
                <select
                  {...p}
                  className="field"
                  value={`${value.quantity}:${value.unit}`}
                  onChange={(e) => {
                    const [quantity = 'length', unit = 'm'] = e.target.value.split(':')
                    onChange({ ...value, quantity, unit, timed: quantity === 'time' && first })
                  }}
                >
                  {UNITS.some(([q, u]) => q === value.quantity && u === value.unit) ? null : (
                    <option value={`${value.quantity}:${value.unit}`}>{value.unit || 'plain number'}</option>
                  )}
                  {UNITS.map(([q, u]) => (
                    <option key={q + u} value={`${q}:${u}`}>
                      {q === 'count' ? 'a count' : `${q} / ${u}`}
                    </option>
                  ))}
                </select>
              </span>
            )}
          </Field>
        ) : null}
        {value.quantity === 'time' && first && scale.number ? (
          <Field
            label="Timers on each trial"
            hint={value.timers > 2 ? 'The median of them counts.' : value.timers === 2 ? 'The mean of both counts.' : 'Three timers catch a slip of one thumb.'}
          >
            {(p) => (
              <span className="pick">
                <select {...p} className="field" value={value.timers} onChange={(e) => onChange({ ...value, timers: Number(e.target.value) })}>
                  <option value={1}>one</option>
                  <option value={2}>two</option>
                  <option value={3}>three</option>
                </select>
              </span>
            )}
          </Field>
        ) : null}
      </div>
      {Of ? <Of where={where} value={value} at={at} asked={asked} onChange={onChange} /> : null}
      <div className="grid gap-6 md:grid-cols-[2fr_1fr_1fr]">
        <Field label="Measuring rule" says={at(`${where}.rule`)} hint={asked(`${where}.rule`)}>
          {(p) => (
            <textarea
              {...p}
              rows={2}
              className="field resize-none"
              value={value.rule}
              placeholder="From where, to where, which edge"
              onChange={(e) => onChange({ ...value, rule: e.target.value })}
            />
          )}
        </Field>
        {scale.number ? (
          <Field label="Smallest step of the tool" says={at(`${where}.step`)} hint="Or leave empty: the last digit written.">
            {(p) => (
              <input
                {...p}
                className="field"
                value={value.step}
                placeholder={`1 ${value.quantity === 'length' ? 'cm' : value.unit}`}
                onChange={(e) => onChange({ ...value, step: e.target.value })}
              />
            )}
          </Field>
        ) : null}
        {scale.number && value.quantity === 'length' ? (
          <Field label="Where the track or tape ends" says={at(`${where}.end`)} hint="A reading there is asked about: it may be at least that.">
            {(p) => <input {...p} className="field" value={value.end} placeholder="none" onChange={(e) => onChange({ ...value, end: e.target.value })} />}
          </Field>
        ) : null}
        {scale.number && !scale.scored ? (
          <Field label="The better reading is" says={at(`${where}.better`)} hint={asked(`${where}.better`)}>
            {(p) => (
              <span className="pick">
                <select
                  {...p}
                  className="field"
                  value={value.better}
                  onChange={(e) => onChange({ ...value, better: e.target.value as MeasureDraft['better'] })}
                >
                  <option value="high">the largest</option>
                  <option value="low">the smallest</option>
                </select>
              </span>
            )}
          </Field>
        ) : null}
      </div>
    </div>
  )
}
