import { Field } from '../../../parts/parts'
import { TakeClip } from './TakeClip'

type Props = { onClip: (clip: Blob | null) => void; onSays: (says: string) => void; rate: string; even: number | null; onRate: (rate: string) => void }

/** A clip chosen or taken, and the rate at which it was really taken where it was slowed down. even: as its file says, null where it comes unevenly. */
export function ChooseClip({ onClip, onSays, rate, even, onRate }: Props) {
  return (
    <div className="flex flex-wrap items-end gap-4">
      <Field label="A video">
        {(p) => <input {...p} type="file" accept="video/*" className="max-w-full" onChange={(e) => onClip(e.target.files?.[0] ?? null)} />}
      </Field>
      <TakeClip onClip={onClip} onSays={onSays} />
      <Field label="Pictures a second, if it was slowed down">
        {(p) => (
          <input
            {...p}
            inputMode="decimal"
            className="field w-32"
            value={rate}
            placeholder={even ? String(even) : '30'}
            onChange={(e) => onRate(e.target.value)}
          />
        )}
      </Field>
    </div>
  )
}
