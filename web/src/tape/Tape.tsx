import { type ReactNode, useLayoutEffect, useRef, useState } from 'react'
import { flushSync } from 'react-dom'
import { CROWD, Marks } from './Marks'
import { colourOf, inLines, type PlacedMark, place, type Strip, shapeOf, strip, type TapeMark } from './geometry'

export type TapeLevel = {
  label: string
  shape: number
  marks: TapeMark[]
  mean?: number | null
  meanText?: string | undefined
  low?: number | null
  high?: number | null
  now?: boolean
  /** What stands over the row, such as what changed since the one above it. */
  note?: string | undefined
}

/** Width of a drawing on A4 paper between margins of 12 mm, in px: a page is laid out for its paper, whatever the screen was. */
export const PAPER_WIDTH = 690

/** Width of an element, followed as it changes; the paper's while the page is printed, unless it is drawn at its paper's size already. */
export function useWidth(asDrawn = false): [React.RefObject<HTMLDivElement | null>, number] {
  const ref = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(0)
  useLayoutEffect(() => {
    const el = ref.current
    if (!el) return
    let printing = false
    const measure = () => setWidth(printing && !asDrawn ? PAPER_WIDTH : el.clientWidth)
    const see = new ResizeObserver(measure)
    const print = (on: boolean) => () => {
      printing = on
      flushSync(measure) // the paper is taken in the same moment
    }
    const [begin, end] = [print(true), print(false)]
    see.observe(el)
    measure()
    window.addEventListener('beforeprint', begin)
    window.addEventListener('afterprint', end)
    return () => {
      see.disconnect()
      window.removeEventListener('beforeprint', begin)
      window.removeEventListener('afterprint', end)
    }
  }, [asDrawn])
  return [ref, width]
}

/** One mark in its level's shape: solid for exact, arrow for a bound, soft edge for an estimate, crossed ring for void,
 *  dashed outline for a rehearsed one, which nobody read. */
export function Mark({ mark, shape, r, y }: { mark: PlacedMark; shape: number; r: number; y: number }) {
  const colour = colourOf(shape)
  const move = `translate(${mark.x.toFixed(1)} ${y.toFixed(1)})`
  const d = shapeOf(shape)(r)
  if (mark.kind === 'void')
    return (
      <g transform={move} fill="none" stroke="var(--quiet)" strokeWidth={2}>
        <circle r={r * 0.95} />
        <path d={`M ${-r * 0.55} ${-r * 0.55} L ${r * 0.55} ${r * 0.55} M ${r * 0.55} ${-r * 0.55} L ${-r * 0.55} ${r * 0.55}`} />
      </g>
    )
  if (mark.kind === 'likely')
    return (
      <g transform={move}>
        <path d={d} fill="none" stroke={colour} strokeWidth={1.8} strokeDasharray="2.5 2.5" />
      </g>
    )
  const inner =
    mark.kind === 'exact' ? (
      <path d={d} fill={colour} stroke="var(--floor)" strokeWidth={1.5} />
    ) : mark.kind === 'estimate' ? (
      <>
        <path d={shapeOf(shape)(r * 1.3)} fill={colour} opacity={0.28} />
        <path d={shapeOf(shape)(r * 0.62)} fill={colour} opacity={0.75} />
      </>
    ) : (
      <>
        <path d={d} fill="var(--floor)" stroke={colour} strokeWidth={2.5} />
        <path
          d={mark.kind === 'at_least' ? `M ${r} 0 h ${r * 1.9} m -6 -5 l 6 5 l -6 5` : `M ${-r} 0 h ${-r * 1.9} m 6 -5 l -6 5 l 6 5`}
          fill="none"
          stroke={colour}
          strokeWidth={2.5}
        />
      </>
    )
  return (
    <g transform={move}>
      <g className={mark.fresh ? 'land' : undefined}>{inner}</g>
    </g>
  )
}

/** The yellow strip itself, at the bottom of whatever stands on it. Its left end is a hook where the tape begins at the
 *  start line, and a torn edge where it does not. */
export function Strip_({ s, x0, width, y, height, unit }: { s: Strip; x0: number; width: number; y: number; height: number; unit: string }) {
  const end = x0 + width
  const named = !unit || unit === 'count' ? 'n' : unit
  const torn = `M ${x0 - 12} ${y} ${[0, 1, 2, 3, 4].map((i) => `l ${i % 2 ? -8 : 8} ${height / 5}`).join(' ')} H ${end} V ${y} Z`
  return (
    <g>
      {s.broken ? <path d={torn} fill="var(--tape)" /> : <rect x={x0} y={y} width={width} height={height} fill="var(--tape)" />}
      <rect x={s.broken ? x0 - 2 : x0} y={y + height - 5} width={s.broken ? width + 2 : width} height={5} fill="var(--tape-edge)" />
      {s.minor.map((v) => (
        <line key={v} x1={x0 + s.x(v)} x2={x0 + s.x(v)} y1={y} y2={y + height * 0.22} stroke="var(--tape-ink)" strokeWidth={1.2} />
      ))}
      {s.major.map((v) => (
        <g key={v}>
          <line x1={x0 + s.x(v)} x2={x0 + s.x(v)} y1={y} y2={y + height * 0.55} stroke="var(--tape-ink)" strokeWidth={2.6} />
          {x0 + s.x(v) < end - 14 - 8 * s.label(v).length ? (
            <text x={x0 + s.x(v) + 6} y={y + height * 0.8} className="big" fontSize={height * 0.37} fill="var(--tape-ink)">
              {s.label(v)}
            </text>
          ) : null}
        </g>
      ))}
      {s.broken ? null : <path d={`M ${x0 - 14} ${y - 8} h 14 v ${height + 16} h -14 z`} fill="var(--ink)" />}
      <rect x={end} y={y} width={46} height={height} fill="var(--tape-ink)" />
      <text x={end + 23} y={y + height * 0.64} textAnchor="middle" className="big" fontSize={Math.min(height * 0.36, 100 / named.length)} fill="var(--tape)">
        {named}
      </text>
    </g>
  )
}

/** Every level as a row of marks above one tape. span: values that the tape must reach whatever was read. `roomy` rows carry the mean as a flag and the spread as a bracket. */
export function Tape({
  levels,
  unit,
  roomy = false,
  fit = 0,
  large = false,
  steady = false,
  caption,
  pending,
  span = [],
  joined = [],
  bands = [],
  asDrawn = false,
  step = 0,
  onPoint,
  children,
}: {
  levels: TapeLevel[]
  unit: string
  roomy?: boolean
  /** The rows together may be so high; marks that share a place are then stacked closer, and rows stand nearer. 0: as high as they want. */
  fit?: number
  /** It is read from the far side of a room. */
  large?: boolean
  /** Rows keep their height however many marks are stacked, so that nothing on the page moves while a run goes on. */
  steady?: boolean
  caption: string
  pending?: number | null
  span?: readonly number[]
  /** Marks that belong together, by id, such as what was let go at once: a line joins them. */
  joined?: readonly (readonly string[])[]
  /** It stands on a page that has its paper's size on the screen as well. */
  asDrawn?: boolean
  /** Stretches of the tape that score, with what they score. */
  bands?: readonly { from: number; to: number; text: string }[]
  /** The tool's step: what is pointed at is written to it. */
  step?: number
  /** A press or drag on the tape writes the place that it is at. */
  onPoint?: ((text: string) => void) | undefined
  children?: ReactNode
}) {
  const [ref, width] = useWidth(asDrawn)
  const narrow = width < 520
  const big = asDrawn || large ? 1.5 : 1 // what is made smaller to fit its page is lettered larger first
  const longest = Math.max(3, ...levels.map((l) => l.label.length))
  const x0 = levels.length > 1 || roomy ? Math.min((narrow ? 92 : 190) * big, 34 + longest * (roomy && !narrow ? 11.2 : 8.6) * big) : 18
  const inner = Math.max(60, width - x0 - 48)
  const values = levels.flatMap((l) => [...l.marks.map((m) => m.value), ...(l.mean != null ? [l.mean] : [])]).concat(span)
  const steps = levels.flatMap((l) => l.marks.flatMap((m) => (m.resolution ? [m.resolution] : [])))
  const finest = steps.length ? Math.min(...steps) : 0
  const held = strip(values, inner, undefined, finest)
  // the tape stays where it is under the finger; only what lies off it makes it longer
  const s = pending != null && (pending < held.from || pending > held.to) ? strip([...values, pending], inner, undefined, finest) : held
  const r = narrow ? 9 : large ? 15 : 10
  // on a page long names take two lines rather than letters that nobody reads; on a phone rather than all alike
  const named = (asDrawn || narrow) && longest * 16 * big * 0.5 > x0 - 36 ? 2 : 1
  const placed = levels.map((l) => place(l.marks, s.x, r * 2))
  const wanted = levels.map((l, i) => {
    const rows = 1 + Math.max(0, ...(placed[i] ?? []).map((m) => m.lift))
    if (steady) return l.now ? 86 : 36
    return roomy
      ? Math.max(84, 64 + rows * r * 1.85)
      : Math.max(l.now ? 50 : 34, named * (narrow ? 17 : 26), 14 + rows * r * 1.85 + (l.now && l.mean != null ? 36 : 0))
  })
  const all = wanted.reduce((a, b) => a + b, 0)
  const noted = levels.some((l) => l.note) ? 17 : 0
  const tight = fit > 0 && !narrow && all > fit
  const heights = (tight ? wanted.map((h) => Math.max(56, (h * fit) / all)) : wanted).map((h) => h + noted)
  const lifts = heights.map((h, i) => {
    const most = Math.max(0, ...(placed[i] ?? []).map((m) => m.lift))
    if (steady && most) return Math.min(r * 1.85, Math.max(2, (h - (levels[i]?.now ? 46 : 14) - 2 * r) / most))
    const least = (placed[i] ?? []).length > CROWD ? 0 : 3 // a crowd is an outline, which stays in its row; fewer are each to be seen
    return tight && most ? Math.min(r * 1.85, Math.max(least, (h - noted - 36 - 2 * r) / most)) : r * 1.85
  })
  const below = tight ? 34 : 40
  const tapeH = narrow ? 50 : large ? 92 : 58
  const base = heights.reduce((a, b) => a + b, 0) + 10
  const feet = levels.map((l, i) => heights.slice(0, i + 1).reduce((a, b) => a + b, 0) - (roomy ? below : l.now && l.mean != null ? 44 : 12))
  const spots = new Map(
    joined.length ? placed.flatMap((row, i) => row.map((m) => [m.id, [x0 + m.x, (feet[i] ?? 0) - m.lift * (lifts[i] ?? 0)] as const] as const)) : [],
  )
  const lines = joined.map((ids) =>
    ids.flatMap((id) => {
      const at = spots.get(id)
      return at ? [at] : []
    }),
  )
  const pointAt = (e: React.PointerEvent<SVGSVGElement>) => {
    if (!onPoint || !e.isPrimary || (e.type === 'pointermove' && e.buttons === 0)) return
    const at = e.clientX - e.currentTarget.getBoundingClientRect().left - x0
    if (at < -12 || at > inner + 12) return
    onPoint(written(s.from + (Math.max(0, Math.min(inner, at)) / inner) * (s.to - s.from), step || 10 ** Math.floor(Math.log10((s.to - s.from) / 100))))
  }
  let top = 0
  return (
    <figure ref={ref} className="m-0 w-full overflow-x-clip">
      <figcaption className="sr-only">{caption}</figcaption>
      {width > 0 ? (
        <svg
          width={width}
          height={base + tapeH + 12}
          role="img"
          aria-label={caption}
          style={onPoint ? { touchAction: 'pan-y', cursor: 'crosshair' } : undefined}
          onPointerDown={onPoint ? pointAt : undefined}
          onPointerMove={onPoint ? pointAt : undefined}
        >
          {bands.map((b) => (
            <g key={`${b.from} ${b.to}`} transform={`translate(${x0} 0)`}>
              <rect x={s.x(b.from)} width={Math.max(0, s.x(b.to) - s.x(b.from))} y={0} height={base} fill="var(--tape)" opacity={0.22} />
              {[b.from, b.to].map((edge) => (
                <line key={edge} x1={s.x(edge)} x2={s.x(edge)} y1={0} y2={base} stroke="var(--quiet)" strokeWidth={1.5} data-edge />
              ))}
              <text x={(s.x(b.from) + s.x(b.to)) / 2} y={16} textAnchor="middle" className="big" fontSize={16 * big} fill="var(--ink)">
                {b.text}
              </text>
            </g>
          ))}
          {lines.map((at) =>
            at.length > 1 ? (
              <polyline key={at.join(' ')} points={at.map((p) => p.join(',')).join(' ')} fill="none" stroke="var(--quiet)" strokeWidth={1.4} opacity={0.7} />
            ) : null,
          )}
          {levels.map((l, i) => {
            const y = top
            const h = heights[i] ?? 40
            top += h
            const foot = y + h - (roomy ? below : l.now && l.mean != null ? 44 : 12)
            return (
              <g key={l.label}>
                {l.note ? (
                  <text x={x0} y={y + 13} className="note" fontSize={15 * big} fill="var(--quiet)" data-note>
                    {l.note}
                  </text>
                ) : null}
                {roomy ? <line x1={x0} x2={x0 + inner} y1={foot + r + 3} y2={foot + r + 3} stroke="var(--hair)" strokeWidth={1.5} /> : null}
                {levels.length > 1 || roomy ? (
                  <>
                    <path d={shapeOf(l.shape)(l.now || roomy ? 8 : 6.5)} fill={colourOf(l.shape)} transform={`translate(12 ${foot})`} />
                    <Name
                      label={l.label}
                      room={x0 - 36}
                      y={foot + 6}
                      size={(roomy && !narrow ? 21 : l.now ? 19 : 16) * big}
                      weight={l.now ? 800 : 600}
                      least={narrow ? 13 : 15 * big}
                      lines={roomy ? 3 : named}
                    />
                  </>
                ) : null}
                <g transform={`translate(${x0} 0)`}>
                  {(roomy || l.now) && l.low != null && l.high != null && l.high > l.low ? (
                    <path d={`M ${s.x(l.low)} ${foot + r + 1} v 8 H ${s.x(l.high)} v -8`} fill="none" stroke={colourOf(l.shape)} strokeWidth={2.5} />
                  ) : null}
                  <Marks spots={(placed[i] ?? []).map((m) => ({ ...m, y: foot - m.lift * (lifts[i] ?? 0) }))} shape={l.shape} r={r} />
                  {(roomy || l.now) && l.mean != null ? (
                    <Flag big={big} x={s.x(l.mean)} foot={foot + r + 9} text={l.meanText ?? ''} colour={colourOf(l.shape)} limit={inner} />
                  ) : null}
                </g>
              </g>
            )
          })}
          {pending != null ? (
            <line x1={x0 + s.x(pending)} x2={x0 + s.x(pending)} y1={0} y2={base} stroke="var(--ink)" strokeWidth={2.5} strokeDasharray="3 4" />
          ) : null}
          <Strip_ s={s} x0={x0} width={inner} y={base} height={tapeH} unit={unit} />
        </svg>
      ) : null}
      {children}
    </figure>
  )
}

/** A level's name before the tape: whole in one line where there is room, else smaller and in two or three lines. */
function Name({
  label,
  room,
  y,
  size,
  least,
  weight,
  lines,
}: {
  label: string
  room: number
  y: number
  size: number
  least: number
  weight: number
  lines: number
}) {
  const fits = label.length * size * 0.5 <= room
  const font = fits ? size : Math.min(size, least)
  const rows = fits ? [label] : inLines(label, Math.max(4, Math.floor(room / (font * 0.48))), lines)
  return (
    <text x={28} y={y - (rows.length - 1) * font * 0.55} className="big" fontSize={font} fontWeight={weight} fill="var(--ink)">
      {rows.map((row, i) => (
        <tspan key={row} x={28} dy={i ? font * 1.1 : 0}>
          {row}
        </tspan>
      ))}
    </text>
  )
}

/** The mean's flag hangs below its row, so that it never hides a mark. */
function Flag({ x, foot, text, colour, limit, big }: { x: number; foot: number; text: string; colour: string; limit: number; big: number }) {
  const w = 16 + text.length * 9 * big
  const h = 22 * big
  const left = x + w > limit + 40 ? x - w : x
  return (
    <g>
      <line x1={x} x2={x} y1={foot - 24} y2={foot + h} stroke={colour} strokeWidth={3} />
      <rect x={left} y={foot + 2} width={w} height={h} fill={colour} />
      <text x={left + w / 2} y={foot + 2 + h * 0.75} textAnchor="middle" className="big" fontSize={16 * big} fill="var(--floor)">
        {text}
      </text>
    </g>
  )
}

/** A place on the tape as it is written down, to the step of the tool. */
export function written(value: number, step: number): string {
  const places = Math.max(0, -Math.floor(Math.log10(step) + 1e-9))
  return (Math.round(value / step) * step).toFixed(places)
}
