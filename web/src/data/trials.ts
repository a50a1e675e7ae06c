import type { SeenTrial } from '../machines/turns'
import type { Study, TrialBody } from './api'

export const labelOf = (study: Study, level: string): string => study.levels.find((l) => l.id === level)?.label ?? level
export const levelIndex = (study: Study, level: string | number): number =>
  study.levels.findIndex((l) => l.id === level || l.text === level || Number(l.text.replace('−', '-')) === level)

/** A trial as it is sent again when it is changed. */
export const bodyOf = (t: Omit<SeenTrial, 'saved'>): TrialBody => ({
  block: t.block,
  level: t.level,
  group: t.group,
  person: t.person,
  device: t.device,
  version: t.version,
  specimen: t.specimen,
  rung: t.rung,
  practice: t.practice,
  readings: t.readings.map(({ measure, payload, texts, unit, taken, stamps, source, clock_s }) => ({
    measure,
    payload,
    texts,
    unit,
    taken,
    stamps,
    source,
    clock_s,
  })),
  conditions: t.conditions,
  heat: t.heat,
  answered: t.answered,
  state: t.state,
  fault: t.fault,
  note: t.note,
  placed: false,
  plan_version: null,
  released_at: t.released_at,
  tablet: '', // of the first writing only
  kept_by: t.kept_by,
  revision: t.revision,
})
