import type { Draft, Problem, Study } from '../../data/api'
import { Says, Shape } from '../../parts/parts'

/** The levels as a row of fields, each with the shape that it keeps everywhere. */
export function Levels({
  draft,
  change,
  problems,
  refused,
  asked,
  stored,
  kept,
}: {
  stored: Study['levels']
  kept: boolean
  draft: Draft
  change: (p: Partial<Draft>) => void
  problems: Problem[]
  refused: string | undefined
  asked: string | undefined
}) {
  const { levels, kind, unit } = draft.variable
  const known = kept && stored.length === levels.length // only levels that may have trials need an identity beside their text
  const ids = levels.map((_, i) => draft.variable.level_ids[i] ?? '')
  const set = (next: string[], nextIds: string[]) => change({ variable: { ...draft.variable, levels: next, level_ids: nextIds.some((x) => x) ? nextIds : [] } })
  /** A level that is typed otherwise stays the same level, so that its trials go with it: it keeps the identity that the server knows. */
  const retype = (i: number, text: string) =>
    set(
      levels.map((x, j) => (j === i ? text : x)),
      known ? ids.map((x, j) => (j === i ? x || (stored[i]?.id ?? '') : x)) : ids,
    )
  const unitShown = kind === 'number' && unit && unit !== 'count' ? ` in ${unit}` : ''
  return (
    <fieldset className="m-0 border-0 p-0">
      <legend className="text-[0.92rem] font-semibold text-quiet">Levels{unitShown}</legend>
      <div className="mt-1 flex flex-wrap gap-x-6 gap-y-3">
        {levels.map((level, i) => {
          const says = problems.find((p) => p.where === `variable.levels.${i}`)?.says
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: a level has no identity but its place
            <div key={i} className={kind === 'name' ? 'w-52' : 'w-36'}>
              <div className="flex items-center gap-2">
                <Shape n={i} size={20} />
                <input
                  aria-label={`Level ${i + 1}`}
                  aria-invalid={Boolean(says)}
                  className="field big min-w-0 text-[1.35rem]"
                  value={level}
                  onChange={(e) => retype(i, e.target.value)}
                />
                <button
                  type="button"
                  className="btn btn-plain min-w-[44px] px-1"
                  aria-label={`Remove level ${i + 1}`}
                  onClick={() =>
                    set(
                      levels.filter((_, j) => j !== i),
                      ids.filter((_, j) => j !== i),
                    )
                  }
                >
                  ×
                </button>
              </div>
              {says ? <Says>{says}</Says> : null}
            </div>
          )
        })}
        <button type="button" className="btn" onClick={() => set([...levels, ''], ids.length || known ? [...ids, ''] : [])}>
          Add a level
        </button>
      </div>
      {refused ? <Says>{refused}</Says> : asked ? <p className="m-0 mt-2">{asked}</p> : null}
    </fieldset>
  )
}
