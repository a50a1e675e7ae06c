import { NotOpened } from '../../parts/NotOpened'
import { counted } from '../../parts/counted'
import { useParams } from 'react-router'
import type { Draft, Family, MaterialDraft, Shopping, Study } from '../../data/api'
import { useFamilies, useShopping, useStudy } from '../../data/queries'
import { usePlan } from '../../data/usePlan'
import { Frame } from '../../parts/Frame'
import { Line, Part, Skeleton, Tick, Whole } from '../../parts/parts'
import { MaterialRow } from './MaterialRow'
import { PlanTabs } from './PlanTabs'
import { PlanSaved } from '../../planning/PlanSaved'
import { sayings, type Where } from '../../planning/problems'
import { ShoppingList } from './ShoppingList'
import { Undo } from '../../planning/Undo'

export function Materials() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const shopping = useShopping(id)
  const families = useFamilies()
  if (study.isPending || shopping.isPending || families.isPending) return <Skeleton lines={6} />
  const bad = [study, shopping, families].find((q) => q.isLoadingError)
  if (bad || !study.data || !shopping.data || !families.data) return <NotOpened error={bad?.error} again={() => void study.refetch()} />
  return <Sheet_ key={id} study={study.data} shopping={shopping.data} family={families.data.find((f) => f.id === study.data.draft.family)} />
}

const BLANK: MaterialDraft = { name: '', form: 'count', per_device: '1', piece: '', packs: [], shop_price: '', allowed: '' }

/** What is bought, what it costs, and the rules that devices are held to. */
function Sheet_({ study, shopping, family }: { study: Study; shopping: Shopping; family: Family | undefined }) {
  const plan = usePlan(study)
  const { draft, change, saving } = plan
  const m = draft.materials ?? {}
  const items = m.items ?? []
  const set = (part: Partial<NonNullable<Draft['materials']>>) => change({ materials: { ...m, ...part } })
  const at: Where = (where) => shopping.problems.find((p) => p.where === where)?.says ?? sayings(study, draft, saving).at(where)
  const unlisted = (family?.materials ?? []).filter((u) => !items.some((i) => i.name === u))
  return (
    <Frame study={study} title={`Materials: ${study.title}`}>
      <PlanTabs id={study.id} />
      <div className="mx-auto grid w-full max-w-[84rem] grid-cols-[minmax(0,1fr)] gap-x-12 gap-y-8 px-4 py-6 md:grid-cols-[minmax(0,1fr)_22rem] md:px-8 print:block print:p-0">
        <div className="no-print grid grid-cols-[minmax(0,1fr)] content-start gap-8">
          <h1 className="sr-only">Materials: {study.title}</h1>
          <Part title="What one device takes">
            {items.map((item, i) => (
              <MaterialRow
                // biome-ignore lint/suspicious/noArrayIndexKey: a material has no identity but its place
                key={i}
                n={i}
                item={item}
                at={at}
                shop={Boolean(draft.rules?.budget || draft.rules?.fixed_list)}
                onChange={(next) => set({ items: items.map((x, j) => (j === i ? next : x)) })}
                onAway={() => set({ items: items.filter((_, j) => j !== i) })}
              />
            ))}
            <div className="flex flex-wrap gap-3">
              <button type="button" className="btn" onClick={() => set({ items: [...items, BLANK] })}>
                Add a material
              </button>
              {unlisted.length ? (
                <button type="button" className="btn btn-plain" onClick={() => set({ items: [...items, ...unlisted.map((name) => ({ ...BLANK, name }))] })}>
                  Add the usual ones ({unlisted.length})
                </button>
              ) : null}
            </div>
            <div className="grid grid-cols-2 gap-x-6 gap-y-4 md:grid-cols-5">
              <Whole
                label="Devices per group"
                hint={m.devices_each === 0 ? `0: one at each of the ${counted(draft.variable.levels.length, 'level')}.` : '0: one at each level.'}
                most={50}
                value={m.devices_each ?? 1}
                onChange={(devices_each) => set({ devices_each })}
              />
              <Whole label="Spares in total" most={500} value={m.spare ?? 1} onChange={(spare) => set({ spare })} />
              <Line label="Currency, or play money" value={m.money ?? ''} placeholder="coins" onChange={(money) => set({ money })} />
              <Line
                label="Minutes to assemble"
                says={at('materials.assembly_min')}
                value={m.assembly_min ?? ''}
                onChange={(assembly_min) => set({ assembly_min })}
              />
              <Line label="Cost of an hour’s work" says={at('materials.hourly')} value={m.hourly ?? ''} onChange={(hourly) => set({ hourly })} />
            </div>
          </Part>
          <Rules draft={draft} change={change} />
          <PlanSaved plan={plan} />
          <Undo study={study} />
        </div>
        <ShoppingList study={study} shopping={shopping} money={m.money ?? ''} tools={family?.tools ?? []} />
      </div>
    </Frame>
  )
}

/** The rules of a contest or a shop; each version in Build is held to them with its numbers. */
function Rules({ draft, change }: { draft: Draft; change: (p: Partial<Draft>) => void }) {
  const r = draft.rules ?? {}
  const set = (part: Partial<NonNullable<Draft['rules']>>) => change({ rules: { ...r, ...part } })
  return (
    <Part title="Rules for a device">
      <div className="grid grid-cols-2 gap-x-6 gap-y-4 md:grid-cols-3">
        <Line label="Maximum mass" value={r.mass_limit ?? ''} placeholder="60 g" onChange={(mass_limit) => set({ mass_limit })} />
        <Line label="The payload’s mass" value={r.payload_mass ?? ''} placeholder="12 g" onChange={(payload_mass) => set({ payload_mass })} />
        <Line
          label="Maximum mass with payload, in payloads"
          value={r.payload_multiple ?? ''}
          placeholder="2"
          onChange={(payload_multiple) => set({ payload_multiple })}
        />
        <Line
          label="Maximum mass, as a share of the last version’s"
          value={r.share_of_last ?? ''}
          placeholder="0.75"
          onChange={(share_of_last) => set({ share_of_last })}
        />
        <Line
          label="Budget for each group, in play money"
          value={r.budget ?? ''}
          placeholder="20"
          hint="Opens the shop: each piece gets a price."
          onChange={(budget) => set({ budget })}
        />
      </div>
      <Tick checked={r.fixed_list ?? false} onChange={(fixed_list) => set({ fixed_list })}>
        A fixed list: a device has only the pieces allowed.
      </Tick>
      <Tick checked={r.payload_shows ?? false} onChange={(payload_shows) => set({ payload_shows })}>
        Part of the payload must show.
      </Tick>
    </Part>
  )
}
