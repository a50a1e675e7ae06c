import type { Version } from '../data/api'

export type Drawing = NonNullable<Version['drawing']>

/** The lines of a device's plain drawing, in its own millimetres: a picture around them says how large that is. */
export function Strokes({ drawing, thick = 3 }: { drawing: Drawing; thick?: number }) {
  return (
    <g strokeLinejoin="round" strokeLinecap="round" stroke="var(--ink)" fill="none">
      {drawing.strokes.map((s, i) => {
        const closed = s.d.endsWith('z')
        return (
          <path
            // biome-ignore lint/suspicious/noArrayIndexKey: a line has no identity but its place
            key={i}
            d={s.d}
            vectorEffect="non-scaling-stroke"
            strokeWidth={s.kind === 'edge' ? thick : thick * 0.55}
            strokeDasharray={s.kind === 'fold' ? `${thick * 2} ${thick * 1.7}` : undefined}
            fill={!closed ? 'none' : s.kind === 'dark' ? 'var(--ink)' : s.kind === 'payload' ? 'var(--tape)' : s.kind === 'edge' ? 'var(--sheet)' : 'none'}
          />
        )
      })}
    </g>
  )
}

/** A whole drawing, as large as it finds room. */
export function DeviceDrawing({ drawing, label, thick = 2, className = '' }: { drawing: Drawing; label: string; thick?: number; className?: string }) {
  const edge = 0.04 * Math.max(drawing.width, drawing.height)
  return (
    <svg
      viewBox={`${-edge} ${-edge} ${drawing.width + 2 * edge} ${drawing.height + 2 * edge}`}
      preserveAspectRatio="xMidYMax meet"
      className={className}
      role="img"
      aria-label={label}
    >
      <Strokes drawing={drawing} thick={thick} />
    </svg>
  )
}

/** A sketch that was drawn by hand, on its own sheet. */
export function Sketch({ strokes, label, className = '', thick = 2 }: { strokes: readonly number[][][]; label: string; className?: string; thick?: number }) {
  return (
    <svg viewBox="0 0 100 62" className={className} role="img" aria-label={label}>
      <g transform="scale(1 0.62)" fill="none" stroke="var(--ink)" strokeLinecap="round" strokeLinejoin="round">
        {strokes.map((stroke, i) => (
          <path
            // biome-ignore lint/suspicious/noArrayIndexKey: a stroke has no identity but its place
            key={i}
            d={`M ${stroke.map(([x, y]) => `${((x ?? 0) * 100).toFixed(1)} ${((y ?? 0) * 100).toFixed(1)}`).join(' L ')}`}
            vectorEffect="non-scaling-stroke"
            strokeWidth={thick}
          />
        ))}
      </g>
    </svg>
  )
}
