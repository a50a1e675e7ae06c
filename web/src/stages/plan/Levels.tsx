import type { Draft, Problem } from '../../data/api'
import { Says, Shape } from '../../parts/parts'

/** The levels as a row of fields, each with the shape that it keeps everywhere. */
export function Levels({ draft, change, problems, refused, asked }: { draft: Draft; change: (p: Partial<Draft>) => void; problems: Problem[]; refused: string | undefined; asked: string | undefined }) {
  const { levels, kind, unit } = draft.variable
  const set = (next: string[]) => change({ variable: { ...draft.variable, levels: next } })
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
                <input aria-label={`Level ${i + 1}`} aria-invalid={Boolean(says)} className="field big min-w-0 text-[1.35rem]" value={level} onChange={(e) => set(levels.map((x, j) => (j === i ? e.target.value : x)))} />
                <button type="button" className="btn btn-plain min-w-[44px] px-1" aria-label={`Remove level ${i + 1}`} onClick={() => set(levels.filter((_, j) => j !== i))}>
                  ×
                </button>
              </div>
              {says ? <Says>{says}</Says> : null}
            </div>
          )
        })}
        <button type="button" className="btn" onClick={() => set([...levels, ''])}>
          Add a level
        </button>
      </div>
      {refused ? <Says>{refused}</Says> : asked ? <p className="m-0 mt-2">{asked}</p> : null}
    </fieldset>
  )
}
