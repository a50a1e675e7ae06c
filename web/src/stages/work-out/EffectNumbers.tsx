import type { Analysis, Study } from '../../data/api'
import { levelIndex } from '../../data/trials'
import type { HowAsked } from './How'
import { plain } from './Numbers'

const FORMS = { line: 'straight line', proportional: 'proportional', power: 'power law', peak: 'one peak' } as const
const names = (study: Study, between: readonly (string | number)[]) => between.map((v) => study.levels[levelIndex(study, v)])

type Form = Extract<Analysis['effect'], { kind: 'trend' }>['trend']['forms'][number]

/** The fitted form as it is written: the preferred one, never another. */
function equation(form: Form, a: Analysis): string {
  const c = form.coefficients
  const x = a.factor.name
  const term = (v: number | undefined, first = false) => `${(v ?? 0) < 0 ? '−' : first ? '' : '+'}${first ? '' : ' '}${plain(Math.abs(v ?? 0))}`
  const y = `${a.response.name} = `
  if (form.form === 'power') return `${y}${plain(c.scale)} × (${x}) to the power ${plain(c.exponent, 3)}`
  if (form.form === 'peak') return `${y}${term(c.a, true)} ${term(c.b)} × ${x} ${term(c.c)} × (${x})²`
  if (form.form === 'proportional') return `${y}${term(c.slope, true)} × ${x}`
  return `${y}${term(c.intercept, true)} ${term(c.slope)} × ${x}`
}

/** The effect in numbers: the line and its slope for a numeric variable, the differences with their intervals for names. */
export function EffectNumbers({ a, study, first, onHow }: { a: Analysis; study: Study; first: boolean; onHow: (h: HowAsked) => void }) {
  const unit = a.response.unit ?? ''
  const e = a.effect
  if (e.kind === 'none' || first) return null
  if (e.kind === 'trend') {
    const form = e.trend.forms.find((f) => f.form === e.trend.preferred)
    const line = e.trend.forms.find((f) => f.form === 'line')
    const slope = line?.ci95.slope
    const per = a.factor.unit ? ` ${unit} per ${a.factor.unit}` : ` ${unit} per 1`
    return (
      <section aria-label="The line" className="mt-6 print:break-inside-avoid">
        <h2 className="mb-2 text-[1.5rem]">The {FORMS[e.trend.preferred]} through the trials</h2>
        <p className="num m-0 text-[1.1rem]" data-equation>
          {form ? equation(form, a) : null}
        </p>
        {e.trend.bound ? (
          <p className="mt-1">
            Drawn through what is written. Some readings are only bounds, so the slope has no interval and nothing is concluded from it; the verdict goes by
            rank.
          </p>
        ) : null}
        <p className="num mt-1">
          {e.trend.bound ? null : `r² ${plain(form?.r2, 3)}. `}
          {e.trend.preferred === 'peak'
            ? null
            : `Slope of the straight line ${plain(line?.coefficients.slope)}${per}${slope ? `, 95 % interval ${plain(slope[0])} to ${plain(slope[1])}` : ''}.`}
          {form?.optimum != null
            ? `It is ${(form.coefficients.c ?? 0) < 0 ? 'greatest' : 'least'} at ${plain(form.optimum, 3)} ${a.factor.unit ?? ''}${form.optimum_ci95 ? `, 95 % interval ${plain(form.optimum_ci95[0], 3)} to ${plain(form.optimum_ci95[1], 3)}` : ''}.`
            : null}
        </p>
        <Extremes study={study} a={a} onHow={onHow} />
      </section>
    )
  }
  const rows =
    e.kind === 'difference' || e.kind === 'paired'
      ? [{ between: e.difference.between, shown: e.difference.shown }]
      : e.kind === 'groups'
        ? e.groups.pairs.map((p) => ({ between: p.between, shown: p.shown }))
        : []
  return (
    <section aria-label="Differences" className="mt-6 print:break-inside-avoid">
      <h2 className="mb-2 text-[1.5rem]">Differences between levels</h2>
      <div className="relative overflow-x-auto" tabIndex={0} role="region" aria-label="Differences between levels">
        <table className="num w-full min-w-[30rem] border-collapse text-right print:min-w-0">
          <thead>
            <tr className="text-[0.92rem] text-quiet">
              <th scope="col" className="py-1 text-left font-normal">
                second against first
              </th>
              <th scope="col" className="py-1 pl-4 font-normal">
                difference / {unit}
              </th>
              <th scope="col" className="py-1 pl-4 font-normal">
                95 % interval
              </th>
              <th scope="col" className="py-1 pl-4 font-normal">
                {e.kind === 'groups' ? 'p, adjusted' : 'p, shuffle'}
              </th>
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
                  <td className="py-2 pl-4">{r.shown?.estimate ?? '–'}</td>
                  <td className="py-2 pl-4">{r.shown?.ci95 ?? '–'}</td>
                  <td className="py-2 pl-4">{r.shown?.p ?? '–'}</td>
                  <td className="no-print w-16">
                    <button
                      type="button"
                      className="btn btn-plain min-h-[44px]"
                      aria-label={`How was ${two?.label} against ${one?.label} worked out?`}
                      onClick={() => onHow({ about: 'difference', first: one?.id ?? '', second: two?.id ?? '' })}
                    >
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
          Shuffle test over all levels: p {e.groups.p_shuffle < 0.001 ? 'below 0.001' : `= ${plain(e.groups.p_shuffle, 2)}`}
          {e.groups.shuffle_exact
            ? `, every one of ${e.groups.shuffle_arrangements} arrangements`
            : `, ${e.groups.shuffle_arrangements} random arrangements, seed ${e.groups.shuffle_seed}`}
          . Best first:{' '}
          {a.ranking
            .map((r) => `${study.levels[levelIndex(study, r.level)]?.label} ${r.result}${r.apart_from_next === false ? ' (not told from the next)' : ''}`)
            .join('; ')}
          .
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
    <button type="button" className="btn btn-plain no-print" onClick={() => onHow({ about: 'difference', first: one.id, second: two.id })}>
      How do {two.label} and {one.label} differ?
    </button>
  )
}
