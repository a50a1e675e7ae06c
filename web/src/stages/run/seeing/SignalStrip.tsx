import { useEffect, useRef } from 'react'
import { roleSaid } from '../../../machines/seeing/lines'
import { useWidth } from '../../../tape/Tape'
import type { Gates } from './useGates'

const HIGH = 44
const SHOWN_S = 6
/** A strip is full where at least so much of a line is covered, more where more is. */
const FULL = 0.12
/** How high a share stands in its row, which is full at another. */
const rise = (share: number, full: number) => 0.92 - 0.84 * Math.min(1, share / full)

/** How much of each line is covered, in the last seconds, and from where on something is in it. marks: moments that were found, in s of the pictures. */
export function SignalStrip({ gates, marks }: { gates: Gates; marks: Readonly<Record<number, number>> }) {
  const { setting, signals } = gates
  const [box, width] = useWidth()
  const paths = useRef<(SVGPolylineElement | null)[]>([])
  const dots = useRef<(SVGLineElement | null)[]>([])
  const watched = setting.lines.map((l, n) => ({ ...l, n })).filter((l) => !(setting.press && l.role.start))
  const many = setting.lines.length > 2
  const left = 76
  const levels = useRef<(SVGLineElement | null)[]>([])
  const live = useRef({ marks, width, threshold: setting.threshold })
  live.current = { marks, width, threshold: setting.threshold }
  useEffect(() => {
    let ask = 0
    const draw = () => {
      ask = requestAnimationFrame(draw)
      const all = signals.current
      const last = all.at(-1)?.t ?? 0
      const x = (t: number) => left + ((t - last) / SHOWN_S + 1) * Math.max(1, live.current.width - left)
      const full = Math.max(FULL, 2 * live.current.threshold, ...all.flatMap((s) => s.values))
      for (const line of levels.current)
        for (const y of ['y1', 'y2']) line?.setAttribute(y, String((Number(line.dataset.row) + rise(live.current.threshold, full)) * HIGH))
      for (const [row, path] of paths.current.entries())
        path?.setAttribute('points', all.map((s) => `${x(s.t).toFixed(1)},${((row + rise(s.values[row] ?? 0, full)) * HIGH).toFixed(1)}`).join(' '))
      for (const [row, line] of dots.current.entries()) {
        const at = live.current.marks[row]
        const place = at === undefined ? -10 : x(at)
        line?.setAttribute('x1', String(place < left ? -10 : place))
        line?.setAttribute('x2', String(place < left ? -10 : place))
      }
    }
    draw()
    return () => cancelAnimationFrame(ask)
  }, [signals])
  return (
    <div ref={box} className="min-w-0">
      <svg width={width} height={HIGH * watched.length} role="img" aria-label="How much of each line is covered, and from where on it counts" data-signals>
        {watched.map(({ role }, row) => (
          <g key={roleSaid(role, many)}>
            <text x={0} y={(row + 0.75) * HIGH} fontSize={15} fill="var(--ink)" style={{ fontFamily: 'var(--font-big)', fontWeight: 650 }}>
              {role.start ? 'start' : many ? `lane ${role.lane}` : 'end'}
            </text>
            <line
              x1={left}
              x2={width}
              ref={(el) => {
                levels.current[row] = el
              }}
              data-row={row}
              stroke="var(--doubt)"
              strokeDasharray="5 4"
              strokeWidth={1.5}
            />
            <polyline
              ref={(el) => {
                paths.current[row] = el
              }}
              fill="none"
              stroke="var(--ink)"
              strokeWidth={2}
            />
            <line
              ref={(el) => {
                dots.current[row] = el
              }}
              y1={row * HIGH}
              y2={(row + 1) * HIGH}
              stroke="var(--ink)"
              strokeWidth={2}
              strokeDasharray="2 3"
            />
          </g>
        ))}
      </svg>
    </div>
  )
}
