import { useState } from 'react'
import type { Analysis, Study } from '../../data/api'
import { levelIndex } from '../../data/trials'
import type { HowAsked } from './How'

/** More pairs than these are folded to neighbours. */
const MOST_PAIRS = 6
export const FORMS = { line: 'straight line', proportional: 'line through zero', power: 'power law', peak: 'curve with one peak' } as const
const names = (study: Study, between: readonly (string | number)[]) => between.map((v) => study.levels[levelIndex(study, v)])

/** The effect in numbers: the line and its slope for a numeric variable, the differences with their intervals for names. */
export function EffectNumbers({ a, study, first, onHow }: { a: Analysis; study: Study; first: boolean; onHow: (h: HowAsked) => void }) {
  const contest = study.draft.study_kind === 'contest' // its places stand below, with what cannot be told apart
  const [open, setOpen] = useState<'none' | 'neighbours' | 'all'>(contest ? 'none' : 'neighbours')
  const unit = a.response.unit ?? ''
  const e = a.effect
  if (e.kind === 'none' || e.kind === 'survival' || first) return null // of outcomes the shares stand in the table
  if (e.kind === 'trend') {
    const [equation, ...rest] = a.in_numbers
    return (
      <section aria-label="The line" className="mt-6 print:break-inside-avoid">
        <h2 className="mb-2 text-[1.5rem]">{e.trend.drawn ? `The ${FORMS[e.trend.preferred]}` : 'No line through the trials'}</h2>
        <p className="num m-0 text-[1.1rem]" data-equation>
          {equation}
        </p>
        <p className="num mt-1">{rest.join(' ')}</p>
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
  // of many pairs those that are neighbours in the order of the results; where nothing can be put in order, all of them
  const order = a.ranking.map((r) => levelIndex(study, r.level))
  const beside = rows.filter((r) => {
    const [one, two] = r.between.map((v) => order.indexOf(levelIndex(study, v)))
    return one !== undefined && two !== undefined && one >= 0 && two >= 0 && Math.abs(one - two) === 1
  })
  const folded = rows.length > MOST_PAIRS && beside.length > 0
  return (
    <section aria-label="Differences" className="mt-6 print:break-inside-avoid">
      <h2 className="mb-2 text-[1.5rem]">Differences between levels</h2>
      <div
        className={`relative overflow-x-auto ${folded && open === 'none' ? 'hidden print:block' : ''}`}
        tabIndex={0}
        role="region"
        aria-label="Differences between levels"
      >
        <table className="num w-full min-w-[30rem] border-collapse text-right print:min-w-0">
          <thead>
            <tr className="text-[0.92rem] text-quiet">
              <th scope="col" className="py-1 text-left font-normal">
                second against first
              </th>
              <th scope="col" className="py-1 pl-4 font-normal">
                difference{unit && unit !== 'count' ? ` / ${unit}` : ''}
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
            {(!folded || open === 'all' ? rows : beside).map((r) => {
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
      {folded ? (
        <div className="no-print flex flex-wrap gap-x-5">
          {open === 'none' ? null : (
            <button type="button" className="btn btn-plain px-0" aria-expanded={open === 'all'} onClick={() => setOpen(open === 'all' ? 'neighbours' : 'all')}>
              {open === 'all' ? 'Neighbours in the order of results only' : `All ${rows.length} pairs`}
            </button>
          )}
          {contest ? (
            <button
              type="button"
              className="btn btn-plain px-0"
              aria-expanded={open !== 'none'}
              onClick={() => setOpen(open === 'none' ? 'neighbours' : 'none')}
            >
              {open === 'none' ? 'How neighbours in the order of results differ' : 'Fold'}
            </button>
          ) : null}
        </div>
      ) : null}
      {a.in_numbers.map((says) => (
        <p key={says} className="num mt-2">
          {says}
        </p>
      ))}
      {e.kind === 'groups' && !contest ? (
        <p className="num mt-2">
          Best first:{' '}
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
