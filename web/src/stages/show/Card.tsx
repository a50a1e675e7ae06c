import type { Report } from '../../data/api'
import { DeviceDrawing, Sketch } from '../../parts/DeviceDrawing'
import type { Own } from './useOwn'
import { Written } from './Written'

/** The card that sells a device: its name, who needs it, what it does with its number, what it weighs and costs, how it is packed. */
export function Card({ report, own, write }: { report: Report; own: Own; write: ((part: string, text: string) => void) | undefined }) {
  const { study, sections, places, card } = report
  const best = card?.name || places[0]?.label || ''
  const look = card?.look ?? report.looks.find((l) => l.label === (report.conclusion?.best[0] ?? places[0]?.label))
  const part = (id: string, label: string, known: string, className = '') => (
    <Written part={id} label={label} known={known} texts={own.texts} write={write} className={className} />
  )
  // as they were when the report was made; one of an earlier version did not keep them
  const facts: [string, string][] = card
    ? [
        ['Mass', card.mass],
        ['Parts', card.parts],
        ['One costs', card.one],
        ['A thousand cost', card.thousand],
        ['To put one together', card.assembly],
      ]
    : []
  return (
    <article className="max-w-[44rem] border-4 border-ink p-6 print:max-w-none print:[zoom:1.7]" data-card>
      <h1 className="sr-only">The card of {own.texts.name ?? (best || study.title)}</h1>
      <div className="big text-[2.8rem] leading-none">{part('name', 'Its name', best || study.title)}</div>
      <div className="mt-2 text-[1.2rem]">
        {part('for_whom', 'Who needs it', own.texts.for_whom || write ? '' : `Made for: ${study.draft.question || study.title}`)}
      </div>
      <div className="big mt-4 text-[1.7rem]">{part('does', 'What it does, with its number', sections.does)}</div>
      {look ? (
        <div className="mt-4 flex h-[15rem] items-end" data-card-look>
          {look.photo ? (
            <img src={look.photo} alt={look.label} className="max-h-full max-w-full border-2 border-ink object-contain" />
          ) : look.drawing && !look.sketch.length ? (
            <DeviceDrawing drawing={look.drawing} label={`Drawing of ${best}`} className="h-full max-w-full" thick={3} />
          ) : (
            <Sketch strokes={look.sketch} label={`Sketch of ${best}`} className="h-full max-w-full" thick={3} />
          )}
        </div>
      ) : null}
      <dl className="m-0 mt-6 grid grid-cols-[10rem_1fr] gap-y-1">
        {facts.map(([name, value]) =>
          value ? (
            <div key={name} className="contents">
              <dt className="font-semibold text-quiet">{name}</dt>
              <dd className="m-0">{value}</dd>
            </div>
          ) : null,
        )}
      </dl>
      {write || own.texts.packed ? (
        <div className="mt-4">
          <strong>How it is packed: </strong>
          {part('packed', 'How it is packed', '')}
        </div>
      ) : null}
    </article>
  )
}
