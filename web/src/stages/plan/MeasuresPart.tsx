import type { Draft, Family, MeasureDraft } from '../../data/api'
import { freeId, scaleOf } from '../../data/measures'
import { Line } from '../../parts/parts'
import { measureFor, same, secondsOf } from '../../planning/choose'
import type { PartOf } from '../../planning/problems'
import { MeasurePart } from './MeasurePart'

const MOST = 8

/** The ordered list of measures; the first answers the question. The family's usual ones are one press away. */
export function MeasuresPart({ draft, change, at, asked, family }: PartOf & { family: Family | undefined }) {
  const { measures } = draft
  const set = (next: MeasureDraft[]) => change({ measures: next })
  const put = (i: number, m: MeasureDraft) => set(measures.map((x, j) => (j === i ? m : x)))
  const add = (m: MeasureDraft) => set([...measures, { ...m, id: freeId(measures) }])
  const free = (family?.measures ?? []).filter((m) => !measures.some((x) => same(x.name, m.name)))
  const first = measures[0]
  return (
    <>
      {measures.map((m, i) => (
        <div key={m.id || i} className={i ? 'hair pt-4' : ''} data-measure={m.id}>
          <MeasurePart
            where={`measures.${i}`}
            label={i === 0 ? 'Measure' : i === 1 ? 'Second measure' : `Measure ${i + 1}`}
            first={i === 0}
            value={m}
            family={family}
            at={at}
            asked={asked}
            onChange={(next) => put(i, next)}
            onUsual={(next) =>
              i === 0
                ? change({
                    measures: measures.map((x, j) => (j === 0 ? next : x)),
                    timing: { ...draft.timing, ...secondsOf(next.name, family) } as Draft['timing'],
                  })
                : put(i, next)
            }
          />
          <div className="mt-2 flex flex-wrap gap-x-5">
            {i > 0 ? (
              <>
                <button type="button" className="btn btn-plain px-0" onClick={() => set(measures.filter((_, j) => j !== i))}>
                  {i === 1 ? 'Remove the second measure' : `Remove measure ${i + 1}`}
                </button>
                <button
                  type="button"
                  className="btn btn-plain px-0"
                  onClick={() => set([...measures.slice(0, i - 1), m, measures[i - 1] as MeasureDraft, ...measures.slice(i + 1)])}
                >
                  Move it up
                </button>
              </>
            ) : null}
          </div>
        </div>
      ))}
      {measures.length < MOST && first?.name ? (
        <div className="flex flex-wrap items-center gap-2">
          {free.map((m) => (
            <button
              key={m.name}
              type="button"
              className="btn min-h-[44px] px-3 font-normal"
              onClick={() => add({ ...measureFor(m.name, family), timed: false, timers: 1 })}
            >
              + {m.name}
            </button>
          ))}
          <button type="button" className="btn btn-plain" onClick={() => add({ ...measureFor('', undefined), quantity: first.quantity, unit: first.unit })}>
            {measures.length === 1 ? 'Add a second measure' : 'Add a measure'}
          </button>
        </div>
      ) : null}
      <Payloads draft={draft} change={change} says={at('payloads')} />
      {measures.some((m) => m.signed) && first?.quantity === 'length' && !first.signed ? (
        <div className="max-w-72">
          <Line
            label="Straighter may cost at most so much distance"
            says={at('margin')}
            hint={asked('margin') ?? 'The margin agreed for “straighter without losing distance”.'}
            value={draft.margin ?? ''}
            placeholder={`0.5 ${first.unit}`}
            onChange={(margin) => change({ margin })}
          />
        </div>
      ) : null}
    </>
  )
}

/** One to six payloads in a device, each with a name; an outcome can be judged for each. */
function Payloads({ draft, change, says }: { draft: Draft; change: (p: Partial<Draft>) => void; says: string | undefined }) {
  const outcomes = draft.measures.filter((m) => scaleOf(m).survives)
  const payloads = draft.payloads ?? []
  if (!outcomes.length) return null
  return (
    <fieldset className="m-0 border-0 p-0">
      <legend className="text-[0.92rem] font-semibold text-quiet">Payloads in each device</legend>
      <div className="mt-1 flex flex-wrap items-end gap-x-4 gap-y-2">
        {payloads.map((p, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a payload is its place
          <span key={i} className="flex w-44 items-end gap-1">
            <Line
              label={`Payload ${i + 1}`}
              value={p}
              placeholder={['left', 'right', 'top'][i] ?? ''}
              onChange={(v) => change({ payloads: payloads.map((x, j) => (j === i ? v : x)) })}
            />
            <button
              type="button"
              className="btn btn-plain min-w-[44px] px-1"
              aria-label={`Remove payload ${i + 1}`}
              onClick={() => change({ payloads: payloads.filter((_, j) => j !== i) })}
            >
              ×
            </button>
          </span>
        ))}
        {payloads.length < 6 ? (
          <button
            type="button"
            className="btn"
            onClick={() => change({ payloads: payloads.length ? [...payloads, `payload ${payloads.length + 1}`] : ['payload 1', 'payload 2'] })}
          >
            {payloads.length ? 'Add a payload' : 'It carries several payloads'}
          </button>
        ) : null}
      </div>
      {says ? <p className="m-0 mt-1 font-semibold text-doubt">{says}</p> : null}
    </fieldset>
  )
}
