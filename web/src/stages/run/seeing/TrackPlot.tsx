import { linear } from '../../../tape/scale'
import { useWidth } from '../../../tape/Tape'

export type Shown = 'y' | 'x' | 'speed' | 'acceleration' | 'felt'
export const SHOWN: Record<Shown, readonly [name: string, unit: string]> = {
  y: ['height', 'm'],
  x: ['way across', 'm'],
  speed: ['speed', 'm/s'],
  acceleration: ['acceleration', 'm/s²'],
  felt: ['what was felt', 'm/s²'],
}
const HIGH = 190
const LEFT = 64

/** What was followed against time, the tape of time laid under it; the band holds 95 of 100. columns, rows: as the core gives them. */
export function TrackPlot({ columns, rows, shown }: { columns: readonly string[]; rows: readonly (readonly number[])[]; shown: Shown }) {
  const [box, width] = useWidth()
  const at = (name: string) => columns.indexOf(name)
  const size = (row: readonly number[], a: string, b: string) => Math.hypot(row[at(a)] ?? 0, row[at(b)] ?? 0)
  const points = rows.map((row) => {
    const t = row[at('t_s')] ?? 0
    if (shown === 'speed') return { t, v: size(row, 'vx_m_s', 'vy_m_s'), u: row[at('u_speed_m_s')] ?? 0 }
    if (shown === 'acceleration') return { t, v: size(row, 'ax_m_s2', 'ay_m_s2'), u: row[at('u_acceleration_m_s2')] ?? 0 }
    return { t, v: row[at({ x: 'x_m', y: 'y_m', felt: 'felt_m_s2' }[shown])] ?? 0, u: 0 }
  })
  if (!points.length) return null
  const t0 = points[0]?.t ?? 0
  const end = (points.at(-1)?.t ?? 1) - t0
  const low = Math.min(0, ...points.map((p) => p.v - 2 * p.u))
  const high = Math.max(...points.map((p) => p.v + 2 * p.u)) || 1
  const x = linear(0, end || 1, LEFT, Math.max(LEFT + 10, width - 16))
  const y = linear(low, high, HIGH - 40, 12)
  const line = points.map((p) => `${x(p.t - t0).toFixed(1)},${y(p.v).toFixed(1)}`).join(' ')
  const band = [
    ...points.map((p) => `${x(p.t - t0).toFixed(1)},${y(p.v + 2 * p.u).toFixed(1)}`),
    ...[...points].reverse().map((p) => `${x(p.t - t0).toFixed(1)},${y(p.v - 2 * p.u).toFixed(1)}`),
  ].join(' ')
  const [name, unit] = SHOWN[shown]
  const label = (v: number) => String(Number(v.toFixed(3))).replace('-', '−')
  return (
    <div ref={box} className="min-w-0">
      <svg
        width={width}
        height={HIGH}
        role="img"
        aria-label={`${name} in ${unit} against time in s, from ${label(points[0]?.v ?? 0)} to ${label(points.at(-1)?.v ?? 0)}`}
      >
        {y.ticks(4).map((v) => (
          <g key={v}>
            <line x1={LEFT} x2={width - 16} y1={y(v)} y2={y(v)} stroke="var(--hair)" />
            <text x={LEFT - 8} y={y(v) + 5} textAnchor="end" fontSize={14} fill="var(--quiet)">
              {label(v)}
            </text>
          </g>
        ))}
        <text x={0} y={14} fontSize={14} fill="var(--quiet)">
          {unit}
        </text>
        <polygon points={band} fill="var(--line)" opacity={0.16} />
        <polyline points={line} fill="none" stroke="var(--ink)" strokeWidth={2} />
        <rect x={LEFT} y={HIGH - 32} width={Math.max(0, width - 16 - LEFT)} height={26} fill="var(--tape)" />
        {x.ticks(8).map((t) => (
          <g key={t}>
            <rect x={x(t) - 0.75} y={HIGH - 32} width={1.5} height={9} fill="var(--tape-ink)" />
            <text x={x(t) + 4} y={HIGH - 11} fontSize={13} fill="var(--tape-ink)" style={{ fontFamily: 'var(--font-big)', fontWeight: 650 }}>
              {label(t)}
            </text>
          </g>
        ))}
        <text x={width - 4} y={HIGH - 13} textAnchor="end" fontSize={13} fill="var(--quiet)">
          s
        </text>
      </svg>
    </div>
  )
}
