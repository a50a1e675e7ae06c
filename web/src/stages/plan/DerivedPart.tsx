import { useState } from 'react'
import type { Ahead, Binding, Calculator, DerivedDraft, Draft, Study } from '../../data/api'
import { freeId } from '../../data/measures'
import { useCalculators } from '../../data/queries'
import { Line, Pick, Says } from '../../parts/parts'
import { same } from '../../planning/choose'
import type { PartOf } from '../../planning/problems'
import { CHOICES } from '../../planning/choices.gen'
import { pairs } from '../../planning/words'

const words = (name: string) => name.replaceAll('_', ' ')

/** What is worked out from the readings of each trial: speed, force, power. Each input is pointed at where it comes from. */
export function DerivedPart({ draft, change, ahead, study }: PartOf & { ahead: Ahead | undefined; study: Study }) {
  const calculators = useCalculators().data ?? []
  const [choosing, setChoosing] = useState(false)
  const derived = draft.derived ?? []
  const set = (next: DerivedDraft[]) => change({ derived: next })
  /** How a thing is held, written where it is asked for. */
  const hold = (name: string, value: string) => {
    const held = draft.hold ?? []
    const at = held.findIndex((h) => same(h.name, name))
    change({ hold: at < 0 ? [...held, { name, value, tolerance: '', how: '' }] : held.map((h, i) => (i === at ? { ...h, value } : h)) })
  }
  const add = (offer: Ahead['offers'][number]) => change({ measures: [...draft.measures, ...offer.needs], derived: [...derived, offer.derived] })
  return (
    <>
      {derived.map((d, i) => (
        <One
          key={d.id}
          at={i}
          value={d}
          draft={draft}
          study={study}
          calculator={calculators.find((c) => c.id === d.calculator)}
          units={ahead?.units[`${d.calculator} ${d.output}`] ?? []}
          hold={hold}
          onChange={(next) => set(derived.map((x, j) => (j === i ? next : x)))}
          onRemove={() => set(derived.filter((_, j) => j !== i))}
        />
      ))}
      <div className="flex flex-wrap items-center gap-2">
        {(ahead?.offers ?? []).map((o) => (
          <button key={o.derived.name} type="button" className="btn min-h-[44px] px-3 font-normal" onClick={() => add(o)}>
            + {o.derived.name}
          </button>
        ))}
        <button type="button" className="btn btn-plain" onClick={() => setChoosing((on) => !on)}>
          Something else to work out
        </button>
      </div>
      {choosing ? (
        <div className="max-w-md">
          <Pick
            label="How it is worked out"
            value=""
            options={[['', 'Choose …'], ...calculators.map((c) => [c.id, c.title] as const)]}
            onChange={(id) => {
              const c = calculators.find((x) => x.id === id)
              if (!c) return
              setChoosing(false)
              const output = c.outputs[0] ?? ''
              set([...derived, { id: freeId(derived, 'd'), name: words(output), calculator: c.id, output, unit: '', better: 'high', inputs: [] }])
            }}
          />
        </div>
      ) : null}
    </>
  )
}

function One({
  at,
  value,
  draft,
  study,
  calculator,
  units,
  hold,
  onChange,
  onRemove,
}: {
  hold: (name: string, value: string) => void
  at: number
  value: DerivedDraft
  draft: Draft
  study: Study
  calculator: Calculator | undefined
  units: readonly string[]
  onChange: (d: DerivedDraft) => void
  onRemove: () => void
}) {
  const says = (where: string) => study.problems.find((p) => p.where === `derived.${at}.${where}`)?.says
  const bind = (b: Binding) => onChange({ ...value, inputs: [...value.inputs.filter((x) => x.input !== b.input), b] })
  return (
    <div className={at ? 'hair pt-4' : ''} data-derived={value.id}>
      <div className="grid items-end gap-6 md:grid-cols-[1.4fr_1fr_8rem_auto]">
        <Line label="Worked out" says={says('name')} value={value.name} onChange={(name) => onChange({ ...value, name })} />
        <Pick
          label={calculator?.title ?? 'From'}
          says={says('calculator') ?? says('output')}
          value={value.output}
          options={(calculator?.outputs ?? [value.output]).map((o) => [o, words(o)] as const)}
          onChange={(output) => onChange({ ...value, output, unit: '' })}
        />
        <Pick
          label="Unit"
          says={says('unit')}
          value={value.unit || (units[0] ?? '')}
          options={(units.length ? units : [value.unit]).map((u) => [u, u || 'plain number'] as const)}
          onChange={(unit) => onChange({ ...value, unit })}
        />
        <button type="button" className="btn btn-plain" onClick={onRemove}>
          Remove
        </button>
      </div>
      <ul className="m-0 mt-3 grid list-none gap-2 p-0">
        {calculator?.inputs.map((input) => (
          <Input
            key={input.name}
            input={input}
            draft={draft}
            earlier={(draft.derived ?? []).slice(0, at)}
            value={value.inputs.find((b) => b.input === input.name)}
            says={says(`inputs.${input.name}`)}
            onChange={bind}
            onHeld={hold}
          />
        ))}
      </ul>
    </div>
  )
}

/** One input: what it is, where it comes from, and, where that is a typed or held value, its field at this place. */
function Input({
  input,
  draft,
  earlier,
  value,
  says,
  onChange,
  onHeld,
}: {
  onHeld: (name: string, value: string) => void
  input: Calculator['inputs'][number]
  draft: Draft
  earlier: readonly DerivedDraft[]
  value: Binding | undefined
  says: string | undefined
  onChange: (b: Binding) => void
}) {
  const [asking] = useState(Boolean(says)) // what was asked for here stays here while it is written
  const b: Binding = value ?? { input: input.name, source: '', of: '', value: '' }
  const readings = [
    ...draft.measures.filter((m) => m.quantity === input.quantity).map((m) => [`reading:${m.id}`, m.name] as const),
    ...earlier.map((d) => [`reading:${d.id}`, `${d.name} (worked out)`] as const),
  ]
  const held = (draft.hold ?? [])
    .filter((h) => h.name.trim())
    .map((h) => [`held:${h.name}`, `held: ${h.name}${h.value ? `, ${h.value}${h.tolerance ? ` ± ${h.tolerance}` : ''}` : ''}`] as const)
  const drop = draft.drop?.plan === 'one_height' && input.quantity === 'length' ? [['held:drop height', 'held: the drop height'] as const] : []
  const setting =
    draft.variable.kind === 'number' && draft.variable.quantity === input.quantity ? [['setting:', `the setting: ${draft.variable.name}`] as const] : []
  const version = [
    ['version:mass', 'of the version: mass'] as const,
    ['version:mass with payload', 'of the version: mass, with the payload’s'] as const,
    ...(b.source === 'version' && !b.of?.startsWith('mass') ? [[`version:${b.of}`, `of the version: ${b.of}`] as const] : []),
  ]
  const options = [
    ['', input.optional ? 'left out' : 'Choose …'] as const,
    ...readings,
    ...setting,
    ...held.filter(([id]) => !drop.some(([d]) => d === id)),
    ...drop,
    ...version,
    ['typed:', 'typed here'] as const,
  ]
  const chosen = b.source ? `${b.source}:${b.source === 'typed' || b.source === 'setting' ? '' : b.of}` : ''
  const known = options.some(([id]) => id === chosen)
    ? options
    : [...options, [chosen, `${pairs(CHOICES['derived.source']).find(([id]) => id === b.source)?.[1]}: ${b.of}`] as const]
  return (
    <li className="grid items-end gap-x-5 gap-y-1 md:grid-cols-[9rem_1.4fr_1fr]">
      <span className="self-center font-semibold">{words(input.name)}</span>
      <Pick
        label={`Where ${words(input.name)} comes from`}
        value={chosen}
        options={known}
        onChange={(id) => {
          const [source, ...of] = id.split(':')
          onChange({ ...b, source: (source || '') as Binding['source'], of: of.join(':') })
        }}
      />
      {b.source === 'typed' ? (
        <Line
          label={`${words(input.name)}, with its doubt`}
          value={b.value}
          placeholder={`2 ${input.unit} ± 0.1 ${input.unit}`}
          onChange={(v) => onChange({ ...b, value: v })}
        />
      ) : b.source === 'held' && !drop.length && (says || asking) ? (
        <Line
          label={`${b.of} is held at`}
          value={(draft.hold ?? []).find((h) => same(h.name, b.of))?.value ?? ''}
          placeholder={`2 ${input.unit}`}
          onChange={(v) => onHeld(b.of, v)}
        />
      ) : (
        <span />
      )}
      {says ? (
        <div className="md:col-span-3">
          <Says>{says}</Says>
        </div>
      ) : null}
    </li>
  )
}
