import type { Draft } from '../../data/api'
import { scaleOf } from '../../data/measures'
import { Line, Pick, Says } from '../../parts/parts'
import { CHOICES } from '../../planning/choices.gen'
import type { PartOf } from '../../planning/problems'
import { pairs, why } from '../../planning/words'

/** How drops are made and what counts as survived. Nothing here has a silent default. */
export function DropPart({ draft, change, at, asked }: PartOf) {
  const drop = draft.drop
  const set = (part: Partial<NonNullable<Draft['drop']>>) => change({ drop: { plan: 'ladder', heights: [], unit: 'm', payload: '', ...drop, ...part } })
  const heights = drop?.heights ?? []
  /** One height: the height that is held already is that height, with its tolerance, and its limit is a limit on it. */
  const oneHeight = () => {
    const held = (draft.hold ?? []).find((h) => h.name.trim().toLowerCase() === 'drop height')
    const own = held?.value?.trim() ? [`${held.value.trim()}${held.tolerance?.trim() ? ` ± ${held.tolerance.trim()}` : ''}`] : []
    change({
      drop: { unit: 'm', payload: '', ...drop, plan: 'one_height', heights: heights.length === 1 ? heights : own },
      limits: (draft.limits ?? []).map((l) => (l.on === 'held' && l.name?.trim().toLowerCase() === 'drop height' ? { ...l, on: 'rungs', name: '' } : l)),
    })
  }
  return (
    <>
      <div className="grid gap-6 md:grid-cols-3">
        {draft.measures.some((m) => scaleOf(m).survives) ? null : (
          <Pick
            label="What counts as survived"
            says={at('survival')}
            hint={asked('survival') ?? why(CHOICES.survival, draft.survival)}
            value={draft.survival ?? ''}
            options={pairs(CHOICES.survival)}
            onChange={(survival) => change({ survival })}
          />
        )}
        <Pick
          label="The drops"
          says={at('drop')}
          hint={asked('drop') ?? why(CHOICES['drop.plan'], drop?.plan ?? '')}
          value={drop?.plan ?? ''}
          options={pairs(CHOICES['drop.plan'])}
          onChange={(plan) => (plan === '' ? change({ drop: null }) : plan === 'one_height' ? oneHeight() : set({ plan }))}
        />
        {drop && drop.plan !== 'one_height' ? (
          <Pick
            label="The payload"
            says={at('drop.payload')}
            hint={asked('drop.payload') ?? why(CHOICES['drop.payload'], drop.payload)}
            value={drop.payload ?? ''}
            options={pairs(CHOICES['drop.payload'])}
            onChange={(payload) => set({ payload })}
          />
        ) : null}
      </div>
      {drop ? (
        <div className="flex flex-wrap items-start gap-x-5 gap-y-3">
          {heights.map((h, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a rung is its place
            <div key={i} className="w-28">
              <Line
                label={drop.plan === 'one_height' ? `Height, ${drop.unit}` : `Rung ${i + 1}, ${drop.unit}`}
                big
                says={at(`drop.heights.${i}`)}
                value={h}
                onChange={(v) => set({ heights: heights.map((x, j) => (j === i ? v : x)) })}
              />
            </div>
          ))}
          <span className="flex gap-2 self-end">
            {drop.plan === 'one_height' && heights.length ? null : (
              <button type="button" className="btn" onClick={() => set({ heights: [...heights, ''] })}>
                {drop.plan === 'one_height' ? 'Write the height' : 'Add a rung'}
              </button>
            )}
            {heights.length ? (
              <button type="button" className="btn btn-plain" onClick={() => set({ heights: heights.slice(0, -1) })}>
                Remove the last
              </button>
            ) : null}
          </span>
          {at('drop.heights') ? (
            <Says>{at('drop.heights')}</Says>
          ) : asked('drop.heights') ? (
            <p className="m-0 self-end text-quiet">{asked('drop.heights')}</p>
          ) : null}
        </div>
      ) : null}
    </>
  )
}
