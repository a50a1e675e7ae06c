import type { Draft, Problem, Study } from '../data/api'
import type { Saving } from '../machines/typing'

export type Where = (where: string) => string | undefined
/** What a part of the plan needs: the draft, how to change it, and what is said at a place. */
export type PartOf = { draft: Draft; change: (part: Partial<Draft>) => void; at: Where; asked: Where }

/** What is only empty so far is asked for quietly; what is typed and cannot be is said plainly. */
const empty = (p: Problem, draft: Draft) =>
  p.code.endsWith('_missing') ||
  (p.code === 'family_unknown' && !draft.family) ||
  (p.code === 'levels_few' && draft.variable.levels.length === 0) ||
  (p.code === 'rungs_few' && !draft.drop?.heights?.length)

export function sayings(study: Study, draft: Draft, saving: Saving<Draft>): { at: Where; asked: Where; grave: Problem[] } {
  const problems = study.problems
  return {
    at: (where) =>
      saving.state === 'refused' && saving.where === where ? saving.says : problems.find((p) => p.where === where && p.grave && !empty(p, draft))?.says,
    asked: (where) => problems.find((p) => p.where === where && (!p.grave || empty(p, draft)))?.says,
    grave: problems.filter((p) => p.grave),
  }
}
