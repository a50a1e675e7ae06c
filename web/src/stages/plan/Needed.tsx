import { useState } from 'react'
import type { Ahead, Draft, Problem } from '../../data/api'
import { Line, Pick, Says } from '../../parts/parts'
import { CHOICES } from '../../planning/choices.gen'
import { pairs } from '../../planning/words'
import { limitOn, withLimit } from './SafetyPart'

type Change = (part: Partial<Draft>) => void
type Asking = { draft: Draft; change: Change; ahead: Ahead | undefined; said: Problem }

/** What is still missing, each with its own field: asked once, written here, and it stays while it is being written. */
export function Needed({ problems, draft, change, ahead }: { problems: readonly Problem[]; draft: Draft; change: Change; ahead: Ahead | undefined }) {
  const grave = problems.filter((p) => p.grave || FIELDS[p.code])
  const [seen, setSeen] = useState<Problem[]>([])
  const fresh = grave.filter((p) => FIELDS[p.code] && !seen.some((s) => same(s, p)))
  if (fresh.length) setSeen([...seen, ...fresh])
  // a drop height is asked for once: its limit comes with it
  const drops = seen.some((s) => s.code === 'rungs_few')
  const asked = seen.filter((s) => !(s.code === 'limit_missing' && drops && /drop height/.test(s.says)))
  const rest = grave.filter((p) => !FIELDS[p.code])
  if (!asked.length && !rest.length) return null
  return (
    <section aria-label="Still missing" className="mt-6 grid gap-3" data-needed>
      {grave.length ? <h2 className="m-0 text-[1.25rem]">Still missing</h2> : null}
      {asked.map((p) => {
        const Of = FIELDS[p.code]
        const open = grave.find((g) => same(g, p))
        return Of ? (
          <div key={p.code + p.where + p.says}>
            <Of draft={draft} change={change} ahead={ahead} said={p} />
            {open ? <p className="m-0 text-[0.92rem] text-quiet">{open.says}</p> : null}
          </div>
        ) : null
      })}
      {rest.slice(0, 6).map((p) => (
        <Says key={p.where + p.code}>{p.says}</Says>
      ))}
    </section>
  )
}

const same = (a: Problem, b: Problem) => a.code === b.code && (a.code === 'limit_missing' ? a.says === b.says : a.where === b.where)
const parted = (text: string): string[] => text.split(/[,;\n]/).map((t) => t.trim())

/** Text that becomes a list: what is typed stays as it is typed, a comma at its end as well. */
function Parts({ label, value, placeholder, onChange }: { label: string; value: string[]; placeholder: string; onChange: (parts: string[]) => void }) {
  const [text, setText] = useState(value.join(', '))
  return (
    <Line
      label={label}
      big
      value={text}
      placeholder={placeholder}
      onChange={(t) => {
        setText(t)
        onChange(parted(t).filter(Boolean))
      }}
    />
  )
}

function LimitField({ draft, change, ahead, said }: Asking) {
  const place = ahead?.limits.find((l) => said.says.includes(`limit on ${l.label}:`))
  if (!place) return null
  const held = draft.hold ?? []
  const i = place.on === 'held' ? held.findIndex((h) => h.name.trim().toLowerCase() === place.name.trim().toLowerCase()) : -1
  const at = limitOn(draft, place)
  // what is held at no value yet is held at what is written here: one height, never above
  const follows = place.on === 'held' && (!held[i]?.value?.trim() || held[i]?.value === at)
  const holding = (value: string) =>
    i < 0 ? [...held, { name: place.name, value, tolerance: '', how: '' }] : held.map((h, j) => (j === i ? { ...h, value } : h))
  return (
    <Line
      label={follows ? `The ${place.label}, and never above` : `Never above, ${place.label}`}
      big
      value={at}
      placeholder={follows ? '2.4 m' : `10 ${place.unit === 'count' ? '' : place.unit}`}
      onChange={(value) => change({ ...withLimit(draft, place, value), ...(follows ? { hold: holding(value) } : {}) })}
    />
  )
}

function LevelsField({ draft, change }: Asking) {
  const v = draft.variable
  const devices = draft.study_kind === 'contest'
  return (
    <Parts
      label={devices ? 'The devices, with commas' : `Levels of ${v.name || 'the variable'}${v.unit && v.unit !== 'count' ? `, in ${v.unit}` : ''}, with commas`}
      value={v.levels}
      placeholder={devices ? 'Amber, Birch, Cedar' : '4, 6, 8'}
      onChange={(levels) => change({ variable: { ...v, levels, level_ids: [] } })}
    />
  )
}

function HeightsField({ draft, change, ahead }: Asking) {
  const drop = draft.drop
  if (!drop || !ahead) return null // the limit that goes with it is known once the core has been asked
  const one = drop.plan === 'one_height'
  const place = ahead.limits.find((l) => l.on === 'rungs')
  const top = (drop.heights ?? []).at(-1) ?? ''
  // the limit goes with the highest rung, unless the teacher has set another
  const limited = (heights: string[]) => {
    const at = place ? limitOn(draft, place) : ''
    return place && (!at || at === top || at === `${top} ${drop.unit}`) ? withLimit(draft, place, heights.at(-1) ?? '') : {}
  }
  return (
    <Parts
      label={one ? `Dropped from, in ${drop.unit}, and never above` : `Rungs in ${drop.unit}, from low to high, with commas; never above the last`}
      value={drop.heights ?? []}
      placeholder={one ? '2.4' : '0.5, 1, 1.5, 2'}
      onChange={(heights) => change({ drop: { ...drop, heights }, ...limited(heights) })}
    />
  )
}

function SurvivedField({ draft, change, said }: Asking) {
  const i = Number(said.where.split('.')[1])
  const m = draft.measures[i]
  if (!m) return null
  return (
    <Pick
      label={`${m.name.slice(0, 1).toUpperCase()}${m.name.slice(1)}: counts as survived`}
      value={String(m.survived)}
      options={[['0', 'Choose …'] as const, ...m.words.slice(0, -1).map((w, n) => [String(n + 1), n ? `down to “${w}”` : `only “${w}”`] as const)]}
      onChange={(line) => change({ measures: draft.measures.map((x, j) => (j === i ? { ...x, survived: Number(line) } : x)) })}
    />
  )
}

function PayloadField({ draft, change }: Asking) {
  const drop = draft.drop
  return drop ? (
    <Pick
      label="One payload, or a fresh one each time"
      value={drop.payload ?? ''}
      options={pairs(CHOICES['drop.payload'])}
      onChange={(payload) => change({ drop: { ...drop, payload } })}
    />
  ) : null
}

function ZonesField({ draft, change, said }: Asking) {
  const i = Number(said.where.split('.')[1])
  const m = draft.measures[i]
  if (!m) return null
  const edges = [...m.zones.map((z) => z.start), m.zones.at(-1)?.end ?? ''].filter(Boolean)
  const zones = (at: string[]) => at.slice(0, -1).map((start, n) => ({ start, end: at[n + 1] ?? '', points: n + 1 }))
  return (
    <Parts
      label={`Edges of the zones, in ${m.unit}, with commas: 1 point, then 2, then 3 …`}
      value={edges}
      placeholder="1, 1.5, 2, 2.5"
      onChange={(at) => change({ measures: draft.measures.map((x, j) => (j === i ? { ...x, zones: zones(at) } : x)) })}
    />
  )
}

function PayloadMassField({ draft, change }: Asking) {
  const rules = draft.rules
  return (
    <Line
      label="The payload’s own mass"
      big
      value={rules?.payload_mass ?? ''}
      placeholder="60 g"
      onChange={(payload_mass) => change({ rules: { ...rules, payload_mass } })}
    />
  )
}

function TogetherField({ draft, change }: Asking) {
  return <Pick label="Devices are compared" value={draft.compared ?? 'timed'} options={pairs(CHOICES.compared)} onChange={(compared) => change({ compared })} />
}

/** The field for each kind of thing that can be missing; what has none is said in words. */
const FIELDS: Record<string, (a: Asking) => React.ReactNode> = {
  limit_missing: LimitField,
  levels_few: LevelsField,
  rungs_few: HeightsField,
  survived_line: SurvivedField,
  payload_use_missing: PayloadField,
  zones_missing: ZonesField,
  places_alone: TogetherField,
  payload_mass_missing: PayloadMassField,
}
