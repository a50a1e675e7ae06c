import type { Version } from '../../data/api'
import { Part } from '../../parts/parts'
import { strip } from '../../tape/geometry'
import { Strip_, useWidth } from '../../tape/Tape'

/** The device from the side along a tape of millimetres: its parts, where it balances, and for a rocket where the air pushes. */
export function SideView({ version }: { version: Version }) {
  const [ref, width] = useWidth()
  const side = version.side
  if (!side) return null
  const inner = Math.max(100, width - 80)
  const s = strip([0, side.length / 1.05], inner)
  const heaviest = Math.max(...side.parts.map((p) => p.mass), 1)
  const middle = 74
  const base = 150
  return (
    <Part title="From the side">
      <ul className="m-0 list-none p-0 text-[1.1rem]">
        {side.says.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
      <figure ref={ref} className="m-0 overflow-x-clip">
        {width > 0 ? (
          <svg width={width} height={base + 62} role="img" aria-label={side.says.join(' ')}>
            <g transform="translate(20 0)">
              {side.outline ? (
                <Outline o={side.outline} round={version.draft.shape?.nose === 'ogive'} x={s.x} middle={middle} />
              ) : (
                <line x1={s.x(0)} x2={s.x(side.length)} y1={middle} y2={middle} stroke="var(--ink)" strokeWidth={3} />
              )}
              {side.parts.map((p, i) => (
                <g key={`${p.name}${p.position}`}>
                  <circle cx={s.x(p.position)} cy={middle} r={5 + 9 * Math.sqrt(p.mass / heaviest)} fill="var(--floor)" stroke="var(--ink)" strokeWidth={2} />
                  <text x={s.x(p.position)} y={middle + (i % 2 ? 36 : -24)} textAnchor="middle" fontSize={15} fill="var(--ink)">
                    {p.name}
                  </text>
                </g>
              ))}
              {side.balance != null ? <path d={`M ${s.x(side.balance)} ${middle + 16} l 15 28 h -30 z`} fill="var(--ink)" /> : null}
              {side.pressure != null ? (
                <g stroke="var(--doubt)" fill="none" strokeWidth={3}>
                  <circle cx={s.x(side.pressure)} cy={middle} r={11} />
                  <path d={`M ${s.x(side.pressure)} ${middle - 46} v 32 m -7 -8 l 7 9 l 7 -9`} />
                </g>
              ) : null}
            </g>
            <Strip_ s={s} x0={20} width={inner} y={base} height={46} unit="mm" />
          </svg>
        ) : null}
        <figcaption className="mt-1 text-quiet">
          Wedge: where it balances.{side.pressure != null ? ' Ring with an arrow: where the air pushes.' : ''}
        </figcaption>
      </figure>
      {side.working.length ? (
        <details>
          <summary className="min-h-[48px] cursor-pointer content-center font-semibold">How?</summary>
          <ul className="m-0 grid list-none gap-1 p-0">
            {side.working.map((w) => (
              <li key={w} className="break-words">
                {w}
              </li>
            ))}
          </ul>
        </details>
      ) : null}
    </Part>
  )
}

type Shape = NonNullable<NonNullable<Version['side']>['outline']>

/** The rocket's own outline, from its measures as the server read them. */
function Outline({ o, round, x, middle }: { o: Shape; round: boolean; x: (v: number) => number; middle: number }) {
  const wide = (v: number) => x(v) - x(0)
  // drawn to one scale along and across, unless it would then not fit above the tape
  const fit = Math.min(1, (middle - 8) / (wide(o.body_diameter) / 2 + wide(o.span)))
  const half = Math.max(6, (fit * wide(o.body_diameter)) / 2)
  const span = fit * wide(o.span)
  const nose = (way: 1 | -1) =>
    round ? `Q ${x(o.nose_length * 0.45)} ${middle + way * half} ${x(o.nose_length)} ${middle + way * half}` : `L ${x(o.nose_length)} ${middle + way * half}`
  const fins = (way: 1 | -1) =>
    `M ${x(o.fin_position)} ${middle + way * half} l ${wide(o.sweep)} ${way * span} h ${wide(o.tip)} L ${x(o.fin_position + o.root)} ${middle + way * half} z`
  return (
    <g fill="none" stroke="var(--quiet)" strokeWidth={2}>
      <path d={`M ${x(0)} ${middle} ${nose(-1)} H ${x(o.body_length)} V ${middle + half} H ${x(o.nose_length)} M ${x(0)} ${middle} ${nose(1)}`} />
      <path d={fins(1)} />
      <path d={fins(-1)} />
    </g>
  )
}
