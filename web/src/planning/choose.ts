import type { Draft, Family, MeasureDraft, VariableDraft } from '../data/api'
import { freeId } from '../data/measures'

/** The same idea whatever its case and spaces; the server compares in the same way (core/planning/ideas.py). */
const said = (text: string) =>
  text
    .trim()
    .toLowerCase()
    .replace(/\s+/g, ' ')
    .replace(/^(the|an?) (?=.)/, '')
export const same = (a: string, b: string) => said(a) === said(b)

/** The variable for an idea: the family's own with its usual levels, or the class's own to be completed in the plan. */
export function variableFor(idea: string, family: Family | undefined): VariableDraft {
  const known = family?.variables.find((v) => same(v.name, idea))
  // no level is suggested where the teacher's limit is needed first
  if (known)
    return {
      name: known.name,
      kind: known.kind,
      quantity: known.quantity ?? 'number',
      unit: known.unit,
      level_ids: [],
      levels: known.limited ? [] : known.typical.map(String),
    }
  return { name: idea, kind: 'number', quantity: 'number', unit: '', levels: [], level_ids: [] }
}

/** A measure of the class's own, before anything is said of it. */
const BLANK: MeasureDraft = {
  id: '',
  name: '',
  scale: 'quantity',
  quantity: 'length',
  unit: 'm',
  rule: '',
  step: '',
  better: 'high',
  signed: false,
  timed: false,
  timers: 1,
  words: [],
  survived: 0,
  of: 0,
  zones: [],
  edge: 'higher',
  end: '',
  each_payload: false,
}

export function measureFor(idea: string, family: Family | undefined): MeasureDraft {
  const m = family?.measures.find((x) => same(x.name, idea))
  if (m)
    return {
      ...BLANK,
      name: m.name,
      scale: m.scale,
      quantity: m.quantity,
      unit: m.unit,
      rule: m.rule,
      better: m.better,
      signed: m.signed,
      timed: m.timed,
      timers: m.timers,
      words: [...m.words],
      each_payload: m.each_payload,
      of: m.of,
    }
  return { ...BLANK, name: idea }
}

/** How long one trial of a family's measure takes; nothing is known of a class's own. */
export function secondsOf(measure: string, family: Family | undefined) {
  const m = family?.measures.find((x) => same(x.name, measure))
  return m && family ? { setup_s: family.setup_s, flight_s: m.flight_s, reading_s: m.reading_s, reset_s: family.reset_s } : {}
}

const MOST_MEASURES = 8

/** Choosing what is measured: one thing, then further ones; choosing one again leaves it out. */
export function toggleMeasure(draft: Draft, idea: string, family: Family | undefined): Partial<Draft> {
  const without = draft.measures.filter((m) => !same(m.name, idea))
  if (without.length < draft.measures.length) return { measures: without.length ? without : [{ ...measureFor('', undefined), id: 'm1' }] }
  const first = draft.measures[0]
  if (!first?.name) return { measures: [{ ...measureFor(idea, family), id: first?.id || 'm1' }], timing: { ...draft.timing, ...secondsOf(idea, family) } }
  if (draft.measures.length >= MOST_MEASURES) return {}
  return { measures: [...draft.measures, { ...measureFor(idea, family), id: freeId(draft.measures), timed: false, timers: 1 }] }
}

/** The variable of a contest is the device and of design rounds the version; a fair test has its own. */
export function kindChange(draft: Draft, study_kind: NonNullable<Draft['study_kind']>): Partial<Draft> {
  const untouched = !draft.variable.name || ['device', 'version'].includes(draft.variable.name)
  if (!untouched) return { study_kind }
  const named = { kind: 'name', quantity: 'number', unit: '', level_ids: [] } as const
  if (study_kind === 'contest') return { study_kind, variable: { ...named, level_ids: [], name: 'device', levels: [...(draft.groups ?? [])] } }
  if (study_kind === 'design_rounds') return { study_kind, variable: { ...named, level_ids: [], name: 'version', levels: ['1', '2'] } }
  return { study_kind, variable: { name: '', kind: 'number', quantity: 'number', unit: '', levels: [], level_ids: [] } }
}
