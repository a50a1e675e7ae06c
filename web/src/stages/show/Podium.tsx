import type { Report } from '../../data/api'
import { DeviceDrawing, Sketch } from '../../parts/DeviceDrawing'
import { glued } from '../../parts/glue'
import { Shape } from '../../parts/parts'
import { colourOf } from '../../tape/geometry'

type Placed = Report['places'][number]
type Step = Placed & { place: number }
const MOST = 6

/** The steps in the order people stand on them: the second to the left of the first, the third to its right, then on. */
function standing(steps: readonly Step[]): Step[] {
  const [first, second, third, ...rest] = steps
  return [second, first, third, ...rest].filter((s): s is Step => s !== undefined)
}

/** The devices as a podium: a step's height is its place, shared places stand at one height, the first in the tape's colour. */
export function Podium({
  places,
  looks = [],
  said = '',
  tall = false,
}: {
  places: readonly Placed[]
  looks?: Report['looks']
  /** What the trials can tell apart. */
  said?: string
  tall?: boolean
}) {
  const steps = places.filter((p): p is Step => p.place !== null)
  const below = places.filter((p) => p.place === null)
  const shown = steps.slice(0, MOST)
  const last = Math.max(1, ...shown.map((s) => s.place))
  const many = shown.length > 4
  return (
    <figure className={`m-0 flex flex-col ${tall ? 'h-[70vh]' : 'h-full'}`} aria-label="The devices in the order of their results" data-podium>
      <ol
        className={`m-0 grid min-h-0 grow list-none grid-rows-[minmax(0,1fr)_auto] p-0 ${tall ? 'gap-x-[1.5vw]' : 'gap-x-[0.6em]'}`}
        style={{ gridTemplateColumns: `repeat(${shown.length}, minmax(0, 1fr))` }}
      >
        {standing(shown).map((s, column) => (
          <li key={`${s.place} ${s.label}`} className="contents" data-place={s.place}>
            <Look of={looks.find((l) => l.label === s.label)} column={column} place={s.place} last={last} />
            <div
              data-step
              className={`row-start-1 flex flex-col items-center self-end overflow-hidden border-[0.18em] border-ink px-[0.2em] pt-[0.25em] ${s.place === 1 ? 'bg-tape text-tape-ink' : ''}`}
              style={{
                gridColumn: column + 1,
                minHeight: tall ? undefined : many ? '3em' : '4.7em',
                height: `${(98 - (last > 1 ? ((s.place - 1) / (last - 1)) * 48 : 0)) * (looks.length ? 0.6 : 1)}%`,
                borderBottomColor: colourOf(s.shape),
              }}
            >
              <span className={`big leading-none ${tall ? 'text-[9vh]' : many ? 'text-[1.7em]' : 'text-[2.6em]'}`}>
                <span className="sr-only">place </span>
                {s.place}
                {s.shared ? '=' : ''}
              </span>
              <span className={`big leading-tight ${tall ? 'text-[4vh]' : many ? 'text-[0.8em]' : 'text-[1.1em]'}`}>{s.result.replace(' ', '\u00a0')}</span>
            </div>
            <span
              className={`row-start-2 mt-[0.3em] flex ${many ? 'flex-col items-center justify-start' : 'items-start justify-center'} gap-[0.3em] text-center ${tall ? 'text-[3.4vh]' : many ? 'text-[0.72em]' : ''}`}
              style={{ gridColumn: column + 1 }}
            >
              <Shape n={s.shape} size={tall ? 26 : 13} />
              <span className="big min-w-0 leading-tight [overflow-wrap:anywhere] hyphens-auto">{glued(s.label)}</span>
            </span>
          </li>
        ))}
      </ol>
      {steps.length > MOST || said || below.length ? (
        <figcaption className={tall ? 'pt-3 text-[2.6vh]' : 'text-[0.8em]'} data-podium-said>
          {steps
            .slice(MOST)
            .map((s) => `${s.place}${s.shared ? '=' : ''} ${s.label} ${s.result}`)
            .join(', ')}
          {steps.length > MOST ? '. ' : ''}
          {said}
          {below.length
            ? ` Below the line: ${below.map((p) => `${p.label}${p.result ? `, ${p.result}` : ''} (${(p.outside ?? '').replace(/\.$/, '')})`).join('; ')}.`
            : ''}
        </figcaption>
      ) : null}
    </figure>
  )
}

/** How the device looks, standing on its step: its photo, the sketch that was drawn of it, or its plain drawing. */
function Look({ of, column, place, last }: { of: Report['looks'][number] | undefined; column: number; place: number; last: number }) {
  if (!of) return null
  const step = 98 - (last > 1 ? ((place - 1) / (last - 1)) * 48 : 0)
  const place_ = { gridColumn: column + 1, height: `${Math.max(18, 100 - step * 0.62)}%` }
  return (
    <div className="row-start-1 flex min-h-0 items-end justify-center self-start overflow-hidden pb-[0.2em]" style={place_} data-look={of.label}>
      {of.photo ? (
        <img src={of.photo} alt={of.label} className="max-h-full max-w-full border-[0.14em] border-ink object-contain" />
      ) : of.drawing && !of.sketch.length ? (
        <DeviceDrawing drawing={of.drawing} label={`Drawing of ${of.label}`} className="h-full max-w-full" />
      ) : (
        <Sketch strokes={of.sketch} label={`Sketch of ${of.label}`} className="h-full max-w-full" />
      )}
    </div>
  )
}
