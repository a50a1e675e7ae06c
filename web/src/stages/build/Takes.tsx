import type { Study, VersionDraft } from '../../data/api'
import { Fold } from '../../parts/Fold'
import { Line, Pick, Whole } from '../../parts/parts'

type Part_ = { draft: VersionDraft; change: (part: Partial<VersionDraft>) => void }

/** The pieces that were taken from the plan's materials, and what they cost in the shop. */
export function UsedPart({ draft, change, study, cost }: Part_ & { study: Study; cost: number }) {
  const materials = (study.draft.materials?.items ?? []).filter((m) => m.name)
  const used = draft.used ?? []
  if (!materials.length) return null
  const taken = used.map((u) => `${u.pieces} × ${u.material}`).join(', ')
  const pieces = (name: string) => used.find((u) => u.material === name)?.pieces ?? 0
  const set = (name: string, n: number) => change({ used: [...used.filter((u) => u.material !== name), ...(n ? [{ material: name, pieces: n }] : [])] })
  return (
    <Fold n="" title="Pieces taken" says={taken || 'None written yet.'} missing={false}>
      <div className="grid grid-cols-2 gap-x-6 gap-y-3 md:grid-cols-4">
        {materials.map((m) => (
          <Whole
            key={m.name}
            label={m.name ?? ''}
            hint={m.shop_price ? `${m.shop_price} each${study.draft.materials?.money ? ` (${study.draft.materials.money})` : ''}` : undefined}
            most={10_000}
            parts
            value={pieces(m.name ?? '')}
            onChange={(n) => set(m.name ?? '', n)}
          />
        ))}
      </div>
      {cost ? (
        <p className="m-0">
          {cost} {study.draft.materials?.money ?? ''} for this version.
        </p>
      ) : null}
    </Fold>
  )
}

const MEASURES = [
  ['nose_length', 'Nose length', '60 mm'],
  ['body_diameter', 'Body diameter', '24 mm'],
  ['body_length', 'Whole length', '320 mm'],
  ['fins', 'Number of fins', '4'],
  ['root', 'Fin root', '60 mm'],
  ['tip', 'Fin tip', '30 mm'],
  ['span', 'Fin span', '40 mm'],
  ['sweep', 'Fin sweep', '25 mm'],
  ['fin_position', 'Tip of nose to fin', '260 mm'],
] as const

/** A rocket's outline, from which the centre of pressure is worked out. */
export function ShapePart({ draft, change }: Part_) {
  const shape = draft.shape
  if (!shape) return null
  return (
    <Fold
      n=""
      title="Nose and fins"
      says={
        MEASURES.map(([id, label]) => (shape[id] ? `${label.toLowerCase()} ${shape[id]}` : ''))
          .filter(Boolean)
          .join(', ') || 'Nothing written yet.'
      }
      missing={false}
    >
      <div className="grid grid-cols-2 gap-x-6 gap-y-3 md:grid-cols-5">
        <Pick
          label="Nose"
          value={shape.nose ?? 'cone'}
          options={[
            ['cone', 'cone'],
            ['ogive', 'rounded (ogive)'],
          ]}
          onChange={(nose) => change({ shape: { ...shape, nose } })}
        />
        {MEASURES.map(([id, label, example]) => (
          <Line key={id} label={label} value={shape[id] ?? ''} placeholder={example} onChange={(value) => change({ shape: { ...shape, [id]: value } })} />
        ))}
      </div>
    </Fold>
  )
}
