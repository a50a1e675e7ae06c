import type { Analysis, LevelSummary, Study } from '../../data/api'
import { levelIndex } from '../../data/trials'
import { glued } from '../../parts/glue'
import { Shape } from '../../parts/parts'
import type { HowAsked } from './How'

const OF_A_LADDER = ['n', 'void', 'median', 'best']

export function Numbers({
  a,
  study,
  first,
  ladder,
  factor,
  onHow,
}: {
  a: Analysis
  study: Study
  first: boolean
  ladder: boolean
  factor: string
  onHow: (h: HowAsked) => void
}) {
  const unit = a.response.unit && a.response.unit !== 'count' ? ` / ${a.response.unit}` : ''
  const every: [string, (s: LevelSummary) => string][] = [
    ['n', (s) => String(s.n_kept)],
    ['void', (s) => String(s.n_void)],
    [`mean${unit}`, (s) => s.shown?.mean ?? '–'],
    ['median', (s) => s.shown?.median ?? '–'],
    ['best', (s) => s.shown?.best ?? '–'],
    ...(first && study.draft.result !== 'total' ? [] : ([['total', (s) => s.shown?.total ?? '–']] as [string, (s: LevelSummary) => string][])),
    ['± half range', (s) => s.shown?.half_range ?? '–'],
    ...(first
      ? []
      : ([
          ['SD', (s) => s.shown?.sd ?? '–'],
          ['95 % interval', (s) => s.shown?.ci95 ?? '–'],
        ] as [string, (s: LevelSummary) => string][])),
  ]
  const columns = ladder ? every.filter(([name]) => OF_A_LADDER.includes(name)) : every
  return (
    <div className="relative overflow-x-auto" tabIndex={0} role="region" aria-label="The numbers for each level">
      <table className="num w-full min-w-[34rem] border-collapse text-right print:min-w-0">
        <thead>
          <tr className="text-[0.92rem] text-quiet">
            <th scope="col" className="py-1 text-left font-normal">
              {a.factor.name}
            </th>
            {columns.map(([name]) => (
              <th key={name} scope="col" className="py-1 pl-4 font-normal">
                {name}
              </th>
            ))}
            <th scope="col" className="no-print font-normal">
              <span className="sr-only">working</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {a.levels.map((s) => {
            const i = factor ? a.levels.indexOf(s) : levelIndex(study, s.level)
            const label = glued(factor ? String(s.level) : (study.levels[i]?.label ?? String(s.level)))
            return (
              <tr key={String(s.level)} className="border-t border-hair">
                <th scope="row" className="py-2 text-left">
                  <Shape n={i} size={14} /> {label}
                </th>
                {columns.map(([name, cell]) => (
                  <td key={name} className="py-2 pl-4 whitespace-nowrap">
                    {cell(s)}
                  </td>
                ))}
                <td className="no-print w-16">
                  {s.n_kept && !factor ? (
                    <button
                      type="button"
                      className="btn btn-plain min-h-[44px]"
                      aria-label={`How was the mean at ${study.levels[i]?.label} worked out?`}
                      onClick={() => onHow({ about: 'mean', first: study.levels[i]?.id ?? '' })}
                    >
                      How?
                    </button>
                  ) : null}
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
    </div>
  )
}

/** The numbers that stand beside the verdict: how many, the mean by press with its working, and the doubt by the school of the plan. */
export function InShort({ a, study, first, ladder, onHow }: { a: Analysis; study: Study; first: boolean; ladder: boolean; onHow: (h: HowAsked) => void }) {
  const unit = a.response.unit && a.response.unit !== 'count' ? ` / ${a.response.unit}` : ''
  const half = first || study.draft.doubt === 'half_range'
  const rows = a.levels.filter((s) => s.n_kept)
  if (!rows.length) return null
  return (
    <section aria-label="The numbers in short" className="mt-4 print:hidden" data-in-short>
      <h2 className="m-0 text-[1.4rem]">Numbers</h2>
      <table className="num w-full border-collapse text-right">
        <thead>
          <tr className="text-[0.88rem] text-quiet">
            <th scope="col" className="text-left font-normal">
              {a.factor.name}
            </th>
            <th scope="col" className="pl-2 font-normal">
              n
            </th>
            <th scope="col" className="pl-2 font-normal">
              {ladder && (study.draft.result ?? 'mean') === 'mean' ? 'median' : (study.draft.result ?? 'mean')}
              {unit}
            </th>
            {ladder ? null : (
              <th scope="col" className="pl-2 font-normal">
                {half ? '± half range' : '95 % interval'}
              </th>
            )}
          </tr>
        </thead>
        <tbody>
          {rows.map((s) => {
            const level = study.levels[levelIndex(study, s.level)]
            return (
              <tr key={String(s.level)} className="border-t border-hair">
                <th scope="row" className="py-0.5 text-left">
                  <Shape n={levelIndex(study, s.level)} size={13} /> {glued(level?.label ?? String(s.level))}
                </th>
                <td className="pl-2">{s.n_kept}</td>
                <td className="pl-2">
                  <button
                    type="button"
                    className="min-h-[30px] border-0 max-md:min-h-[44px] max-md:min-w-[44px] max-md:text-right bg-transparent p-0 font-semibold text-ink underline underline-offset-4"
                    aria-label={`How was ${s.shown?.result ?? ''} at ${level?.label}, worked out?`}
                    onClick={() => onHow({ about: 'mean', first: level?.id ?? '' })}
                  >
                    {s.shown?.result ?? '–'}
                  </button>
                </td>
                {ladder ? null : <td className="whitespace-nowrap pl-2">{(half ? s.shown?.half_range : s.shown?.ci95) ?? '–'}</td>}
              </tr>
            )
          })}
        </tbody>
      </table>
    </section>
  )
}
