import type { FoundOut, Study } from '../../../data/api'
import { type Place, placesOf } from '../../../data/measures'

/** What was worked out, each number with the measures of the plan that it can be written down for. */
export function FoundList({ study, found, onUse }: { study: Study; found: readonly FoundOut[]; onUse: (place: Place, text: string) => void }) {
  const places = placesOf(study.draft).filter((p) => p.timer === 0)
  return (
    <ul className="m-0 grid list-none gap-0 p-0" aria-label="Worked out" data-found>
      {found.map((f) => {
        const fit = places.filter((p) => p.measure.quantity === f.quantity && f.texts?.[p.measure.unit])
        return (
          <li key={f.id} className="hair flex flex-wrap items-center justify-between gap-x-4 gap-y-1 py-2" data-found-id={f.id}>
            <span>
              <span className="first-letter:uppercase inline-block">{f.name}</span>{' '}
              <strong className="big text-[1.3rem]">
                {f.text} {f.unit}
              </strong>
            </span>
            <span className="flex flex-wrap gap-2">
              {fit.map((p) => (
                <button key={p.name} type="button" className="btn min-h-[48px]" onClick={() => onUse(p, f.texts?.[p.measure.unit] ?? f.text)}>
                  Write it down as {p.payloadName ? `${p.measure.name}, ${p.payloadName}` : p.measure.name}
                </button>
              ))}
            </span>
          </li>
        )
      })}
    </ul>
  )
}
