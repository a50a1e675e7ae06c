import type { Report } from '../../data/api'
import { Shape } from '../../parts/parts'
import { colourOf } from '../../tape/geometry'

type Step = Report['steps'][number]
const MOST = 8

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
    <figure className="m-0 h-full" aria-label="The devices in the order of their results" data-podium>
      <ol
        className={`m-0 grid list-none items-end p-0 ${tall ? 'gap-[1.5vw]' : 'gap-[0.6em]'}`}
        style={{ gridTemplateColumns: `repeat(${shown.length}, minmax(0, 1fr))`, height: tall ? '64vh' : '100%' }}
      >
        {standing(shown).map((s) => (
          <li key={`${s.place} ${s.label}`} className="flex h-full min-w-0 flex-col justify-end text-center" data-place={s.place}>
            <div
              className={`flex flex-col items-center overflow-hidden border-[0.18em] border-ink px-[0.2em] pt-[0.3em] ${s.place === 1 ? 'bg-tape text-tape-ink' : 'bg-floor'}`}
              style={{ minHeight: 'fit-content', height: `${90 - (last > 1 ? ((s.place - 1) / (last - 1)) * 52 : 0)}%`, borderBottomColor: colourOf(s.shape) }}
            >
              <span className={`big leading-none ${tall ? 'text-[9vh]' : many ? 'text-[1.9em]' : 'text-[2.6em]'}`}>
                {s.place}
                {s.shared ? '=' : ''}
              </span>
              <span className={`big leading-tight ${tall ? 'text-[4vh]' : many ? 'text-[0.82em]' : 'text-[1.1em]'}`}>{s.number}</span>
            </div>
            <span className={`mt-[0.3em] flex items-start justify-center gap-[0.3em] ${tall ? 'text-[3.4vh]' : many ? 'text-[0.78em]' : ''}`}>
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
