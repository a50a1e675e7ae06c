import type { Analysis, Study } from '../../data/api'
import { levelIndex } from '../run/Lane'
import type { HowAsked } from './How'
import { plain } from './WorkOut'

const FORMS = { line: 'straight line', proportional: 'proportional', power: 'power law', peak: 'one peak' } as const
const names = (study: Study, between: readonly (string | number)[]) => between.map((v) => study.levels[levelIndex(study, v)])

/** The effect in numbers: the line and its slope for a numeric variable, the differences with their intervals for names. */
export function EffectNumbers({ a, study, first, onHow }: { a: Analysis; study: Study; first: boolean; onHow: (h: HowAsked) => void }) {
  const unit = a.response.unit ?? ''
  const e = a.effect
  if (e.kind === 'none' || first) return null
  if (e.kind === 'trend') {
    const line = e.trend.forms.find((f) => f.form === 'line')
    const slope = line?.ci95.slope
    const per = a.factor.unit ? ` ${unit} per ${a.factor.unit}` : ` ${unit} per 1`
    return (
      <section aria-label="The line" className="mt-6">
        <h2 className="mb-2 text-[1.5rem]">The line through the trials</h2>
        <p className="num m-0 text-[1.1rem]">
          {a.response.name} = {plain(line?.coefficients.intercept)} {(line?.coefficients.slope ?? 0) < 0 ? '−' : '+'} {plain(Math.abs(line?.coefficients.slope ?? 0))} × {a.factor.name}
        </p>
        {e.trend.bound ? <p className="mt-1">Drawn through what is written. Some readings are only bounds, so the slope has no interval and nothing is concluded from it; the verdict goes by rank.</p> : null}
        <p className="num mt-1">
          Slope {plain(line?.coefficients.slope)}
          {per}
          {slope ? `, 95 % interval ${plain(slope[0])} to ${plain(slope[1])}` : ''}{e.trend.bound ? '.' : `; r² ${plain(line?.r2, 3)}. Form preferred by the trials: ${FORMS[e.trend.preferred]}.`}
        </p>
        <Extremes study={study} a={a} onHow={onHow} />
      </section>
    )
  }
  const rows = e.kind === 'difference' || e.kind === 'paired' ? [{ between: e.difference.between, estimate: e.difference.estimate, ci95: e.difference.ci95, p: e.difference.p_shuffle }] : e.kind === 'groups' ? e.groups.pairs.map((p) => ({ between: p.between, estimate: p.estimate, ci95: p.ci95, p: p.p_adjusted })) : []
  return (
    <section aria-label="Differences" className="mt-6">
      <h2 className="mb-2 text-[1.5rem]">Differences between levels</h2>
      <div className="relative overflow-x-auto" tabIndex={0} role="region" aria-label="Differences between levels">
        <table className="num w-full min-w-[30rem] border-collapse text-right">
          <thead>
            <tr className="text-[0.92rem] text-quiet">
              <th scope="col" className="py-1 text-left font-normal">second against first</th>
              <th scope="col" className="py-1 pl-4 font-normal">difference / {unit}</th>
              <th scope="col" className="py-1 pl-4 font-normal">95 % interval</th>
              <th scope="col" className="py-1 pl-4 font-normal">{e.kind === 'groups' ? 'p, adjusted' : 'p, shuffle'}</th>
              <th scope="col" className="no-print">
                <span className="sr-only">working</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => {
              const [one, two] = names(study, r.between)
              return (
                <tr key={r.between.join('|')} className="border-t border-hair">
                  <th scope="row" className="py-2 text-left">
                    {two?.label} − {one?.label}
                  </th>
                  <td className="py-2 pl-4">{plain(r.estimate, 3)}</td>
                  <td className="py-2 pl-4">{r.ci95 ? `${plain(r.ci95[0], 3)} to ${plain(r.ci95[1], 3)}` : '–'}</td>
                  <td className="py-2 pl-4">{plain(r.p, 2)}</td>
                  <td className="no-print w-16">
                    <button type="button" className="btn btn-plain min-h-[44px]" aria-label={`How was ${two?.label} against ${one?.label} worked out?`} onClick={() => onHow({ about: 'difference', first: one?.text ?? '', second: two?.text ?? '' })}>
                      How?
                    </button>
                  </td>
                </tr>
              )
            })}
          </tbody>
        </table>
      </div>
      {e.kind === 'groups' && e.groups.p_shuffle !== null && e.groups.p_shuffle !== undefined ? (
        <p className="num mt-2">
          Shuffle test over all levels: p = {plain(e.groups.p_shuffle, 2)}
          {e.groups.shuffle_exact ? `, every one of ${e.groups.shuffle_arrangements} arrangements` : `, ${e.groups.shuffle_arrangements} random arrangements, seed ${e.groups.shuffle_seed}`}. Best first:{' '}
          {e.groups.places.map((p) => p.map((v) => study.levels[levelIndex(study, v)]?.label).join(' and ')).join('; ')}.
        </p>
      ) : null}
    </section>
  )
}

function Extremes({ study, a, onHow }: { study: Study; a: Analysis; onHow: (h: HowAsked) => void }) {
  const used = a.levels.filter((l) => l.n_kept > 0)
  const one = study.levels[levelIndex(study, used[0]?.level ?? '')]
  const two = study.levels[levelIndex(study, used.at(-1)?.level ?? '')]
  if (!one || !two || one === two) return null
  return (
    <button type="button" className="btn btn-plain no-print" onClick={() => onHow({ about: 'difference', first: one.text, second: two.text })}>
      How do {two.label} and {one.label} differ?
    </button>
  )
}
