import type { Version } from '../../data/api'
import { Part } from '../../parts/parts'
import { strip } from '../../tape/geometry'
import { Strip_, useWidth } from '../../tape/Tape'

type Side = NonNullable<Version['side']>

/** What its parts say: where the device balances, and for a rocket where the air pushes. A rocket is drawn with it on the bench; of any
 *  other the parts lie along a tape of millimetres. */
export function SideView({ version }: { version: Version }) {
  const [ref, width] = useWidth()
  const side = version.side
  if (!side) return null
  const inner = Math.max(100, width - 80)
  const s = strip([0, side.length / 1.05], inner)
  const heaviest = Math.max(...side.parts.map((p) => p.mass), 1)
  const middle = 50
  const base = 106
  return (
    <Part title="From the side">
      <ul className="m-0 list-none p-0 text-[1.1rem]">
        {side.says.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
      {side.parts.length ? (
        <figure ref={ref} className="m-0 overflow-x-clip">
          {width > 0 ? (
            <svg width={width} height={base + 62} role="img" aria-label={side.says.join(' ')}>
              <g transform="translate(20 0)">
                <line x1={s.x(0)} x2={s.x(side.length)} y1={middle} y2={middle} stroke="var(--ink)" strokeWidth={3} />
                {side.parts.map((p, i) => (
                  <g key={`${p.name}${p.position}`}>
                    <circle cx={s.x(p.position)} cy={middle} r={5 + 9 * Math.sqrt(p.mass / heaviest)} fill="var(--floor)" stroke="var(--ink)" strokeWidth={2} />
                    <text x={s.x(p.position)} y={middle + (i % 2 ? 36 : -24)} textAnchor="middle" fontSize={15} fill="var(--ink)">
                      {p.name}
                    </text>
                  </g>
                ))}
                <BalanceMarks side={side} x={s.x} middle={middle} half={14} base={base} />
              </g>
              <Strip_ s={s} x0={20} width={inner} y={base} height={46} unit="mm" />
            </svg>
          ) : null}
          <figcaption className="mt-1 text-quiet">
            Wedge: where it balances.{side.pressure != null ? ' Strokes across the body: where the air pushes.' : ''}
          </figcaption>
        </figure>
      ) : null}
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

/** Where it balances, as a wedge under the body; where the air pushes, as the wind's strokes across it; between the two the margin, as a
 *  length on the tape. x: where a millimetre along the device lies; base: the tape's upper edge. */
export function BalanceMarks({ side, x, middle, half, base }: { side: Side; x: (mm: number) => number; middle: number; half: number; base: number }) {
  const { balance, pressure } = side
  const [from, to] = [Math.min(balance ?? 0, pressure ?? 0), Math.max(balance ?? 0, pressure ?? 0)]
  return (
    <g data-balance>
      {pressure != null
        ? [-14, -7, 0, 7, 14].map((off) => (
            <line
              key={off}
              x1={x(pressure) + off + 4}
              x2={x(pressure) + off - 4}
              y1={middle - half * (1.25 - Math.abs(off) / 28) - 6}
              y2={middle + half * (1.25 - Math.abs(off) / 28) + 6}
              stroke="var(--line)"
              strokeWidth={off ? 2 : 4}
            />
          ))
        : null}
      {balance != null ? (
        <path d={`M ${x(balance)} ${middle + Math.min(half, 16)} l 13 24 h -26 z`} fill="var(--ink)" stroke="var(--floor)" strokeWidth={1.5} />
      ) : null}
      {balance != null && pressure != null && side.margin != null ? (
        <g>
          <path
            d={`M ${x(from)} ${base - 14} v 14 M ${x(to)} ${base - 14} v 14 M ${x(from)} ${base - 7} H ${x(to)}`}
            stroke="var(--ink)"
            strokeWidth={3}
            fill="none"
          />
          <text x={x(to) + 8} y={base - 4} className="big" fontSize={15} fill="var(--ink)">
            margin {side.margin.toFixed(1).replace('-', '−')} × the body’s width
          </text>
        </g>
      ) : null}
    </g>
  )
}
