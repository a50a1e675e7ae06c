import type { ReactNode } from 'react'
import { strip } from './geometry'
import { linear } from './scale'
import { Strip_, useWidth } from './Tape'

export type Where = { x: (v: number) => number; y: (v: number) => number; left: number; right: number; top: number; foot: number }

export const minus = (v: number, digits = 6): string => Number(v.toPrecision(digits)).toString().replace('-', '−')

/** The tape laid along one quantity, with another drawn upright over it. ys: every height that must be seen; nought: heights are about
 *  zero, which stands in sight; label: what a screen reader is told; step: what is counted along the tape, such as whole trials; word: how a height is written beside its line. */
export function Plot({
  xs,
  ys,
  xUnit,
  yUnit,
  label,
  nought = false,
  high = 320,
  step = 0,
  word = minus,
  children,
}: {
  xs: readonly number[]
  ys: readonly number[]
  xUnit: string
  yUnit: string
  label: string
  nought?: boolean
  high?: number
  step?: number
  word?: (v: number) => string
  children: (at: Where) => ReactNode
}) {
  const [ref, width] = useWidth()
  const x0 = 76
  const inner = Math.max(60, width - x0 - 52)
  const tape = strip(xs, inner, undefined, step)
  const [low, top] = [Math.min(...ys), Math.max(...ys)]
  const far = Math.max(Math.abs(low), Math.abs(top)) * 1.15 || 1
  const span = top - low || Math.abs(top) || 1
  const from = nought ? -far : low >= 0 && low < span * 1.2 ? 0 : low - span * 0.12
  const y = linear(from, nought ? far : top + span * 0.08, high - 20, 12)
  return (
    <div ref={ref} className="overflow-x-clip">
      {width > 0 ? (
        <svg width={width} height={high + 64} role="img" aria-label={label} data-plot>
          {y.ticks(high > 260 ? 6 : 4).map((v) => (
            <g key={v}>
              <line
                x1={x0}
                x2={x0 + inner}
                y1={y(v)}
                y2={y(v)}
                stroke={nought && v === 0 ? 'var(--ink)' : 'var(--hair)'}
                strokeWidth={nought && v === 0 ? 2 : 1}
              />
              <text x={x0 - 20} y={y(v) + 5} textAnchor="end" className="big" fontSize={16} fill="var(--ink)">
                {word(v)}
              </text>
            </g>
          ))}
          <text x={0} y={14} className="big" fontSize={15} fill="var(--quiet)">
            {yUnit}
          </text>
          {nought || from === 0 ? null : <path d={`M ${x0 - 8} ${high - 14} l 8 -6 l -8 -6 l 8 -6`} fill="none" stroke="var(--ink)" strokeWidth={2} />}
          {children({ x: (v) => x0 + tape.x(v), y, left: x0, right: x0 + inner, top: 12, foot: high - 20 })}
          <Strip_ s={tape} x0={x0} width={inner} y={high} height={54} unit={xUnit} />
        </svg>
      ) : null}
    </div>
  )
}
