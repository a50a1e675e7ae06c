import { useSeen } from '../../../data/queries'
import { TrackPlot } from './TrackPlot'

const CALLED: Record<string, string> = { followed: 'Followed through a clip', felt: 'Felt by a phone in the carrier', '': 'Pictures' }

/** What is kept beside a trial: what was followed or felt, as numbers and against time, and its small pictures. */
export function Beside({ study, trial }: { study: string; trial: string }) {
  const seen = useSeen(study, trial).data
  if (!seen) return null
  return (
    <section aria-label="Kept beside it" className="grid gap-2 border-t-2 border-ink pt-3" data-beside={seen.kind}>
      <h3 className="m-0 text-[1.2rem]">{CALLED[seen.kind] ?? ''}</h3>
      {seen.found.length ? (
        <ul className="m-0 list-none p-0">
          {seen.found.map((f) => (
            <li key={f.id}>
              <span className="inline-block first-letter:uppercase">{f.name}</span>{' '}
              <strong>
                {f.text} {f.unit}
              </strong>
            </li>
          ))}
        </ul>
      ) : null}
      {seen.rows.length ? <TrackPlot columns={seen.columns} rows={seen.rows} shown={seen.kind === 'felt' ? 'felt' : 'speed'} /> : null}
      {seen.rows.length ? <p className="m-0 text-quiet">Its {seen.rows.length} rows are in the study’s data package.</p> : null}
      <div className="flex flex-wrap gap-2">
        {Array.from({ length: seen.pictures }, (_, n) => (
          <img
            // biome-ignore lint/suspicious/noArrayIndexKey: the pictures in their order
            key={n}
            className="h-36"
            src={`/api/studies/${study}/seen/${trial}/${n + 1}`}
            alt={`Moment ${n + 1} of ${seen.pictures} of this trial`}
          />
        ))}
      </div>
    </section>
  )
}
