import type { Strip } from './geometry'

/** The tape stood upright with its foot on the ground at `y0`; x: its left edge, width: across. */
export function Upright({ s, x, y0, length, width, unit }: { s: Strip; x: number; y0: number; length: number; width: number; unit: string }) {
  return (
    <g>
      <rect x={x} y={y0 - length} width={width} height={length} fill="var(--tape)" />
      <rect x={x + width - 5} y={y0 - length} width={5} height={length} fill="var(--tape-edge)" />
      {s.minor.map((v) => (
        <line key={v} x1={x} x2={x + width * 0.25} y1={y0 - s.x(v)} y2={y0 - s.x(v)} stroke="var(--tape-ink)" strokeWidth={1.2} />
      ))}
      {s.major.map((v) => (
        <g key={v}>
          <line x1={x} x2={x + width * 0.5} y1={y0 - s.x(v)} y2={y0 - s.x(v)} stroke="var(--tape-ink)" strokeWidth={2.6} />
          {v > 0 && s.x(v) < length - 14 ? (
            <text x={x + width - 9} y={y0 - s.x(v) - 5} textAnchor="end" className="big" fontSize={16} fill="var(--tape-ink)">
              {s.label(v)}
            </text>
          ) : null}
        </g>
      ))}
      <rect x={x - 7} y={y0} width={width + 14} height={11} fill="var(--ink)" />
      <text x={x + width / 2 - 2} y={y0 - length - 6} textAnchor="middle" className="big" fontSize={15} fill="var(--ink)">
        {unit}
      </text>
    </g>
  )
}
