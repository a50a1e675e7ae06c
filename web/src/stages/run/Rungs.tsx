import type { Study } from '../../data/api'
import { firstOf, quantityOf } from '../../data/measures'

/** A ladder is read by its rungs: one press writes the highest rung survived. Past the last rung only a bound is known. */
export function Rungs({ study, text, onPick }: { study: Study; text: string; onPick: (text: string) => void }) {
  const { drop } = study.draft
  const measure = firstOf(study.draft)
  const heights = (drop?.heights ?? []).filter((h) => h.trim())
  if (!drop || drop.plan === 'one_height' || quantityOf(measure) !== 'length' || heights.length === 0) return null
  const unit = (h: string) => (/[a-z"']/i.test(h) ? h.trim() : `${h.trim()} ${drop.unit}`)
  // in the measure's own unit the bare number is written, as a hand would
  const written = (h: string) => (drop.unit === measure.unit ? h.trim() : unit(h))
  const first = heights[0] ?? ''
  const picks = [
    { label: 'not the first', text: `<${written(first)}` },
    ...heights.map((h, i) => (i === heights.length - 1 ? { label: `all, ${unit(h)}`, text: `${written(h)}+` } : { label: unit(h), text: written(h) })),
  ]
  return (
    <fieldset className="m-0 mt-2 border-0 p-0 md:max-w-[34rem]">
      <legend className="text-[0.92rem] font-semibold text-quiet">Highest rung survived{study.survival_said ? `: ${study.survival_said}` : ''}</legend>
      <div className="mt-1 flex flex-wrap gap-2">
        {picks.map((p) => (
          <button
            key={p.text}
            type="button"
            aria-pressed={text === p.text}
            className={`btn big min-h-[56px] px-3 ${text === p.text ? 'bg-tape text-tape-ink' : ''}`}
            onClick={() => onPick(p.text)}
          >
            {p.label}
          </button>
        ))}
      </div>
    </fieldset>
  )
}
