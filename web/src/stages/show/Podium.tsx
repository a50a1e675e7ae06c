import type { Report } from '../../data/api'
import { Shape } from '../../parts/parts'
import { colourOf } from '../../tape/geometry'

type Step = Report['steps'][number]
const MOST = 6

/** The steps in the order people stand on them: the second to the left of the first, the third to its right, then on. */
function standing(steps: readonly Step[]): Step[] {
  const [first, second, third, ...rest] = steps
  return [second, first, third, ...rest].filter((s): s is Step => s !== undefined)
}

/** The devices as a podium: a step's height is its place, shared places stand at one height, the first in the tape's colour. */
export function Podium({ steps, tall = false }: { steps: readonly Step[]; tall?: boolean }) {
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
            <div
              className={`row-start-1 flex flex-col items-center self-end overflow-hidden border-[0.18em] border-ink px-[0.2em] pt-[0.25em] ${s.place === 1 ? 'bg-tape text-tape-ink' : ''}`}
              style={{
                gridColumn: column + 1,
                minHeight: many ? '3em' : undefined,
                height: `${98 - (last > 1 ? ((s.place - 1) / (last - 1)) * 48 : 0)}%`,
                borderBottomColor: colourOf(s.shape),
              }}
            >
              <span className={`big leading-none ${tall ? 'text-[9vh]' : many ? 'text-[1.7em]' : 'text-[2.6em]'}`}>
                {s.place}
                {s.shared ? '=' : ''}
              </span>
              <span className={`big leading-tight ${tall ? 'text-[4vh]' : many ? 'text-[0.8em]' : 'text-[1.1em]'}`}>{s.number}</span>
            </div>
            <span
              className={`row-start-2 mt-[0.3em] flex items-start justify-center gap-[0.3em] text-center ${tall ? 'text-[3.4vh]' : many ? 'text-[0.72em]' : ''}`}
              style={{ gridColumn: column + 1 }}
            >
              <Shape n={s.shape} size={tall ? 26 : 13} />
              <span className="big min-w-0 leading-tight [overflow-wrap:anywhere]">{s.label}</span>
            </span>
          </li>
        ))}
      </ol>
      {steps.length > MOST ? <figcaption className="text-[0.8em]">And {steps.length - MOST} more below them.</figcaption> : null}
    </figure>
  )
}
