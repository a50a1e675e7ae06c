import type { MeasureDraft } from '../../data/api'
import { Key } from '../../parts/parts'

/** An outcome by one press or key: a solid border for what counts as survived, a dashed one for what does not. */
export function Outcomes({
  measure,
  value,
  onPick,
  keys,
  big = false,
}: {
  measure: MeasureDraft
  value: string
  onPick: (word: string) => void
  keys: boolean
  big?: boolean
}) {
  return (
    <div className={`mt-2 grid grid-cols-2 gap-2.5 md:max-w-[34rem]`} role="group" aria-label={measure.name}>
      {measure.words.map((word, i) => (
        <button
          key={word}
          type="button"
          aria-pressed={value === word}
          data-outcome={word}
          className={`btn justify-start px-4 text-left ${big ? 'big min-h-[76px] text-[1.7rem]' : 'min-h-[52px]'} ${i < measure.survived ? '' : 'border-dashed'} ${value === word ? 'bg-tape text-tape-ink' : ''}`}
          onClick={() => onPick(value === word ? '' : word)}
        >
          {keys ? (
            <span className="max-md:hidden">
              <Key>{i + 1}</Key>
            </span>
          ) : null}
          {word}
        </button>
      ))}
    </div>
  )
}

/** A place within a heat by one press. */
export function Places({ measure, value, most, onPick }: { measure: MeasureDraft; value: string; most: number; onPick: (text: string) => void }) {
  const places = Array.from({ length: Math.max(2, most) }, (_, i) => String(i + 1))
  return (
    <div className="mt-2 flex flex-wrap gap-2" role="group" aria-label={measure.name}>
      {places.map((p) => (
        <button
          key={p}
          type="button"
          aria-pressed={value === p}
          className={`btn big min-h-[56px] min-w-[3.6rem] ${value === p ? 'bg-tape text-tape-ink' : ''}`}
          onClick={() => onPick(value === p ? '' : p)}
        >
          {p}
        </button>
      ))}
      <button
        type="button"
        aria-pressed={value.endsWith('=')}
        disabled={!value}
        className={`btn min-h-[56px] ${value.endsWith('=') ? 'bg-tape text-tape-ink' : ''}`}
        onClick={() => onPick(value.endsWith('=') ? value.slice(0, -1) : `${value}=`)}
      >
        landed together
      </button>
    </div>
  )
}

/** How the device behaved, as words to press; several may hold. */
export function Behaviours({ words, chosen, onToggle }: { words: readonly string[]; chosen: readonly string[]; onToggle: (word: string) => void }) {
  const own = chosen.filter((w) => !words.includes(w))
  return (
    <fieldset className="m-0 mt-2 min-w-0 border-0 p-0 md:max-w-[34rem]" data-behaviours>
      <legend className="text-[0.92rem] font-semibold text-quiet">Behaviour</legend>
      <div className="mt-1 flex gap-1.5 max-md:overflow-x-auto max-md:pb-1 md:flex-wrap md:gap-1">
        {[...words, ...own].map((w) => (
          <button
            key={w}
            type="button"
            aria-pressed={chosen.includes(w)}
            className={`btn min-h-[48px] shrink-0 px-2 font-normal md:px-1.5 ${chosen.includes(w) ? 'bg-tape text-tape-ink' : 'border-hair'}`}
            onClick={() => onToggle(w)}
          >
            {w}
          </button>
        ))}
      </div>
    </fieldset>
  )
}
