import type { Draft, Family, MeasureDraft, VariableDraft } from '../../data/api'

/** The same idea whatever its case and spaces; the server compares in the same way (core/planning/ideas.py). */
const said = (text: string) => text.trim().toLowerCase().replace(/\s+/g, ' ').replace(/^(the|an?) (?=.)/, '')
export const same = (a: string, b: string) => said(a) === said(b)

/** The variable for an idea: the family's own with its usual levels, or the class's own to be completed in the plan. */
export function variableFor(idea: string, family: Family | undefined): VariableDraft {
  const known = family?.variables.find((v) => same(v.name, idea))
  // no level is suggested where the teacher's limit is needed first
  if (known) return { name: known.name, kind: known.kind, quantity: known.quantity ?? 'number', unit: known.unit, levels: known.limited ? [] : known.typical.map(String) }
  return { name: idea, kind: 'number', quantity: 'number', unit: '', levels: [] }
}

export function measureFor(idea: string, family: Family | undefined): MeasureDraft {
  const m = family?.measures.find((x) => same(x.name, idea))
  if (m) return { name: m.name, quantity: m.quantity, unit: m.unit, rule: m.rule, step: '', better: m.better, signed: m.signed, timed: m.timed, timers: m.timers }
  return { name: idea, quantity: 'length', unit: 'm', rule: '', step: '', better: 'high', signed: false, timed: false, timers: 1 }
}

/** How long one trial of a family's measure takes; nothing is known of a class's own. */
export function secondsOf(measure: string, family: Family | undefined) {
  const m = family?.measures.find((x) => same(x.name, measure))
  return m && family ? { setup_s: family.setup_s, flight_s: m.flight_s, reading_s: m.reading_s, reset_s: family.reset_s } : {}
}

/** Choosing what is measured: one thing, then a second; choosing one again leaves it out. */
export function toggleMeasure(draft: Draft, idea: string, family: Family | undefined): Partial<Draft> {
  const none = measureFor('', undefined)
  if (same(draft.measure.name ?? '', idea)) return draft.also ? { measure: draft.also, also: null } : { measure: none }
  if (draft.also && same(draft.also.name ?? '', idea)) return { also: null }
  if (!draft.measure.name) return { measure: measureFor(idea, family), timing: { ...draft.timing, ...secondsOf(idea, family) } }
  return { also: { ...measureFor(idea, family), timed: false, timers: 1 } }
}
