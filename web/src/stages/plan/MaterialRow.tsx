import type { MaterialDraft } from '../../data/api'
import { Line, Pick, Says } from '../../parts/parts'
import { CHOICES } from '../../planning/choices.gen'
import type { Where } from '../../planning/problems'
import { pairs } from '../../planning/words'

const HOLDS = { count: '24', length: '10 m', sheet: '42 x 59.4 cm', mass: '500 g', volume: '1 l' }

/** One material: what a device takes, and the packs it comes in. */
export function MaterialRow({
  n,
  item,
  at,
  shop,
  onChange,
  onAway,
}: {
  n: number
  item: MaterialDraft
  at: Where
  shop: boolean
  onChange: (m: MaterialDraft) => void
  onAway: () => void
}) {
  const place = `materials.items.${n}`
  const form = item.form ?? 'count'
  const packs = item.packs ?? []
  const set = (part: Partial<MaterialDraft>) => onChange({ ...item, ...part })
  const pack = (i: number, part: object) => set({ packs: packs.map((p, j) => (j === i ? { ...p, ...part } : p)) })
  const bulk = form === 'mass' || form === 'volume'
  const label = item.name || `material ${n + 1}`
  return (
    <fieldset className="hair m-0 border-x-0 border-b-0 p-0 pt-3">
      <legend className="sr-only">{label}</legend>
      <div className="grid grid-cols-2 gap-x-5 gap-y-3 md:grid-cols-[1.5fr_1.2fr_0.8fr_1fr]">
        <Line label="Material" value={item.name ?? ''} says={at(`${place}.name`)} placeholder="kite cloth" onChange={(name) => set({ name })} />
        <Pick label="How it is used" value={form} options={pairs(CHOICES['materials.form'])} onChange={(next) => set({ form: next })} />
        <Line
          label={bulk ? 'Amount' : 'How many'}
          value={item.per_device ?? ''}
          says={at(`${place}.per_device`)}
          placeholder={bulk ? (form === 'mass' ? '60 g' : '20 ml') : '1'}
          onChange={(per_device) => set({ per_device })}
        />
        {form === 'length' || form === 'sheet' ? (
          <Line
            label="Size of each piece"
            hint={form === 'sheet' ? 'Several shapes from one sheet: 10 x 19 cm; 5 x 5 cm.' : undefined}
            value={item.piece ?? ''}
            placeholder={form === 'length' ? '50 cm' : '44 x 44 cm'}
            onChange={(piece) => set({ piece })}
          />
        ) : (
          <span />
        )}
      </div>
      <div className="mt-2 grid gap-2 border-l-[6px] border-tape pl-4">
        {packs.map((p, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a pack has no identity but its place
          <div key={i} className="grid grid-cols-2 gap-x-4 md:grid-cols-[1.2fr_1fr_0.8fr_auto]">
            <Line label="Pack" value={p.name ?? ''} placeholder="roll" onChange={(name) => pack(i, { name })} />
            <Line
              label="holds"
              value={p.holds ?? ''}
              says={at(`${place}.packs.${i}.holds`)}
              placeholder={HOLDS[form]}
              onChange={(holds) => pack(i, { holds })}
            />
            <Line label="price" value={p.price ?? ''} says={at(`${place}.packs.${i}.price`)} placeholder="2.50" onChange={(price) => pack(i, { price })} />
            <button
              type="button"
              className="btn btn-plain mt-5 min-w-[44px] self-start"
              aria-label={`Remove pack ${i + 1} of ${label}`}
              onClick={() => set({ packs: packs.filter((_, j) => j !== i) })}
            >
              ×
            </button>
          </div>
        ))}
        <div className="flex flex-wrap gap-x-5">
          <button type="button" className="btn btn-plain" onClick={() => set({ packs: [...packs, { name: '', holds: '', price: '' }] })}>
            Add a pack of {label}
          </button>
          <button type="button" className="btn btn-plain" onClick={onAway}>
            Remove {label}
          </button>
        </div>
        {shop ? (
          <div className="grid max-w-md grid-cols-2 gap-5">
            <Line label="Shop price of a piece" value={item.shop_price ?? ''} onChange={(shop_price) => set({ shop_price })} />
            <Line label="Pieces allowed" value={item.allowed ?? ''} onChange={(allowed) => set({ allowed })} />
          </div>
        ) : null}
      </div>
      {at(place) ? <Says>{at(place)}</Says> : null}
    </fieldset>
  )
}
