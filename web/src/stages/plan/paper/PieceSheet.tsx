import { memo } from 'react'
import type { Templates } from '../../../data/api'
import type { Printer } from './printer'

type Piece = Templates['pieces'][number]
type Layout = Templates['layout']
type Placed = Layout['sheets'][number][number]

/** Beside a varied size the strip is so wide, mm. */
const STRIP = 4
const INK = '#18211f'
const WORDS = { fontFamily: 'inherit', fill: INK }

/** One sheet at true size: the pieces, what is written above them, the line and the square that a ruler checks. Everything in mm. */
export const PieceSheet = memo(function PieceSheet({
  made,
  layout,
  pieces,
  sheet,
  head,
  inches,
  printer,
  look,
}: {
  made: Templates
  layout: Layout
  pieces: Piece[]
  sheet: number
  head: { small: string; big: string; says: string; group: string }
  /** Strips are ruled in inches where the plan's sizes are. */
  inches: boolean
  printer: Printer
  /** What is looked at once it is cut, where there is room. */
  look: string[]
}) {
  const placed = layout.sheets[sheet] ?? []
  const [across, down] = [100 / printer.line, 50 / printer.square]
  const [wide, high] = layout.inner as [number, number]
  const top = made.head
  const low = top + high
  const corner = { x: wide - made.square, y: low - made.square - 5 }
  const free = placed.every((p) => top + p.y + sizeOf(p, pieces)[1] < corner.y - 2 || p.x > corner.x)
  return (
    <svg
      className="template-sheet bg-white"
      viewBox={`0 0 ${layout.width} ${layout.height}`}
      width={`${layout.width}mm`}
      height={`${layout.height}mm`}
      role="img"
      aria-label={`${head.small}. ${placed.map((p) => [pieces[p.n]?.kind, ...(pieces[p.n]?.labels ?? [])].join(' ')).join(', ')}`}
      data-template-sheet={sheet + 1}
      style={WORDS}
    >
      <g transform={`translate(${layout.margin} ${layout.margin}) scale(${across} ${down})`}>
        <text x={0} y={3.6} fontSize={3.4} fill="#4c5450" fontWeight={600}>
          {head.small}
        </text>
        <text x={0} y={11} fontSize={Math.min(7, wide / Math.max(1, head.big.length) / 0.42)} style={{ fontStretch: '75%' }} className="big">
          {head.big}
        </text>
        {lines(head.says, wide / 1.62).map((line, i) => (
          <text key={line} x={0} y={15.4 + i * 3.6} fontSize={3}>
            {line}
          </text>
        ))}
        {placed.map((p) => (
          <PlacedPiece key={`${p.n} ${p.x} ${p.y}`} placed={p} piece={pieces[p.n] as Piece} top={top} group={head.group} inches={inches} />
        ))}
        {free && look.length ? (
          <g data-look>
            <text x={0} y={corner.y + 8} fontSize={4.6} className="big">
              Look, before it is used
            </text>
            {look.slice(0, 5).map((one, i) => (
              <text key={one} x={0} y={corner.y + 15 + i * 5} fontSize={3.2}>
                – {one}
              </text>
            ))}
          </g>
        ) : null}
        <g fill="none" stroke={INK} strokeWidth={0.3}>
          <rect x={corner.x} y={corner.y} width={made.square} height={made.square} data-square />
        </g>
        <text x={corner.x} y={corner.y + made.square + 3.8} fontSize={3}>
          {made.square} mm square
        </text>
        <Foot y={low + 4} />
      </g>
    </svg>
  )
})

/** The size of what lies there, with its gap: of a tile the tile, of a turned piece turned. */
function sizeOf(p: Placed, pieces: Piece[]): [number, number] {
  if (p.tile) return [p.tile.width, p.tile.height]
  const piece = pieces[p.n] as Piece
  return p.turned ? [piece.height, piece.width] : [piece.width, piece.height]
}

/** The key of the lines, and the line of 100 mm. */
function Foot({ y }: { y: number }) {
  const key: [string, string, number][] = [
    ['cut', 'cut', 0],
    ['up', 'fold towards you', 26],
    ['down', 'fold away', 70],
    ['mark', 'drawn, not cut', 104],
  ]
  return (
    <g>
      {key.map(([kind, says, x]) => (
        <g key={kind}>
          <path d={`M${x} ${y - 1}h11`} {...lookOf(kind as 'cut')} />
          <text x={x + 13} y={y} fontSize={3}>
            {says}
          </text>
        </g>
      ))}
      <g stroke={INK} strokeWidth={0.5} data-line>
        <path d={`M0 ${y + 5}h100`} />
        {[0, 10, 20, 30, 40, 50, 60, 70, 80, 90, 100].map((x) => (
          <path key={x} d={`M${x} ${y + 5 - (x % 100 ? 1.2 : 2.2)}v${x % 100 ? 2.4 : 4.4}`} strokeWidth={0.3} />
        ))}
      </g>
      <text x={104} y={y + 6} fontSize={3}>
        This line is 100 mm. What does your ruler say? ______ mm
      </text>
    </g>
  )
}

/** Folds are told apart by their dashes, whatever the colour of the printer. */
function lookOf(kind: Piece['lines'][number]['kind']) {
  const plain = { fill: 'none', stroke: INK }
  if (kind === 'up') return { ...plain, strokeWidth: 0.35, strokeDasharray: '3 1.6' }
  if (kind === 'down') return { ...plain, strokeWidth: 0.35, strokeDasharray: '4.5 1.2 0.6 1.2' }
  if (kind === 'mark') return { ...plain, stroke: '#6b726c', strokeWidth: 0.2 }
  if (kind === 'hole') return { ...plain, strokeWidth: 0.3 }
  return { ...plain, strokeWidth: 0.45 }
}

function PlacedPiece({ placed: p, piece, top, group, inches }: { placed: Placed; piece: Piece; top: number; group: string; inches: boolean }) {
  const turn = p.turned ? `translate(${piece.height} 0) rotate(90)` : undefined
  const whole = (
    <g transform={turn}>
      <Drawn piece={piece} group={group} inches={inches} />
    </g>
  )
  const what = { 'data-piece': piece.kind, 'data-for': piece.labels.join(', ') }
  if (!p.tile)
    return (
      <g transform={`translate(${p.x} ${p.y + top})`} {...what}>
        {whole}
      </g>
    )
  const t = p.tile
  return (
    <g {...what} data-tile={t.name}>
      <svg x={p.x} y={p.y + top} width={t.width} height={t.height} viewBox={`${t.x} ${t.y} ${t.width} ${t.height}`} overflow="hidden" aria-hidden="true">
        {whole}
      </svg>
      <g transform={`translate(${p.x} ${p.y + top})`}>
        <rect width={t.width} height={t.height} fill="none" stroke="#6b726c" strokeWidth={0.15} strokeDasharray="0.3 1.5" />
        {t.joins.map(([side, other]) => (
          <Join key={side} side={side} other={other} name={t.name} width={t.width} height={t.height} />
        ))}
      </g>
    </g>
  )
}

/** Where two tiles are joined: the middle of what both show, with two crosses that are laid on each other. */
function Join({ side, other, name, width, height }: { side: string; other: string; name: string; width: number; height: number }) {
  const upright = side === 'left' || side === 'right'
  const at = side === 'left' || side === 'top' ? 5 : (upright ? width : height) - 5
  const long = upright ? height : width
  const crosses = [0.25, 0.75].map((share) => (upright ? [at, share * long] : [share * long, at]))
  return (
    <g fill="none" stroke={INK} strokeWidth={0.2} data-join={`${name}–${other}`}>
      <path d={upright ? `M${at} 0v${height}` : `M0 ${at}h${width}`} strokeDasharray="0.8 1.6" />
      {crosses.map(([x = 0, y = 0]) => (
        <path key={`${x} ${y}`} d={`M${x - 3} ${y}h6M${x} ${y - 3}v6`} />
      ))}
      <text
        x={upright ? at : long / 2}
        y={upright ? long / 2 : at}
        dy={-0.8}
        fontSize={2.6}
        stroke="none"
        fill={INK}
        textAnchor="middle"
        transform={upright ? `rotate(-90 ${at} ${long / 2})` : undefined}
      >
        {name}: lay on {other} here
      </text>
    </g>
  )
}

/** A piece with its words, from its own upper left corner. */
export function Drawn({ piece, group, inches }: { piece: Piece; group: string; inches: boolean }) {
  const label = piece.labels.length ? piece.labels.join(', ') : ''
  const { tag } = piece
  return (
    <g>
      {piece.lines.map((line, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a line has no identity but its place
        <path key={i} d={line.d} {...lookOf(line.kind)} data-line-kind={line.kind} />
      ))}
      {piece.notes.map((note) => (
        <text
          key={`${note.text} ${note.at.join(' ')}`}
          x={note.at[0]}
          y={note.at[1]}
          fontSize={note.tall}
          dominantBaseline="central"
          textAnchor="middle"
          className={note.tall > 8 ? 'big' : undefined}
          transform={note.turn ? `rotate(${note.turn} ${note.at[0]} ${note.at[1]})` : undefined}
        >
          {note.text}
        </text>
      ))}
      {tag.level && tag.beside ? (
        <text x={tag.x} y={tag.y} fontSize={tag.level} fontWeight={700}>
          {[label || piece.kind, group].filter(Boolean).join(' · ')}
        </text>
      ) : tag.level ? (
        <g>
          <text x={tag.x} y={tag.y} fontSize={tag.level} className="big" style={{ fontStretch: '75%' }}>
            {label || piece.kind}
          </text>
          <text x={tag.x} y={tag.y + tag.group + 1} fontSize={tag.group} fill="#4c5450">
            {group}
          </text>
        </g>
      ) : null}
      {piece.ruled ? <Strip ruled={piece.ruled} inches={inches} /> : null}
    </g>
  )
}

/** The measuring strip beside what is varied, with room for what was measured. */
function Strip({ ruled, inches }: { ruled: NonNullable<Piece['ruled']>; inches: boolean }) {
  const [x1, y1] = ruled.begin as [number, number]
  const [x2, y2] = ruled.end as [number, number]
  const long = Math.hypot(x2 - x1, y2 - y1)
  const upright = Math.abs(x2 - x1) < Math.abs(y2 - y1)
  const [step, large, half] = inches ? [25.4 / 8, 8, 4] : [1, 10, 5]
  const ticks = [...Array(Math.floor(long / step + 1e-6) + 1).keys()]
  const short = `measured: _____ ${inches ? 'in' : 'cm'}`
  const words = [`${ruled.what}, ${short}`, short, '____'].find((w) => long > w.length * 1.45)
  return (
    <g transform={upright ? `translate(${x1} ${Math.min(y1, y2)})` : `translate(${Math.min(x1, x2)} ${y1})`} data-strip={ruled.what}>
      <rect width={upright ? STRIP : long} height={upright ? long : STRIP} fill="var(--tape, #f4c531)" />
      {ticks.map((i) => {
        const tick = i % large === 0 ? 3 : i % half === 0 ? 2.2 : 1.3
        return <path key={i} d={upright ? `M0 ${i * step}h${tick}` : `M${i * step} 0v${tick}`} stroke={INK} strokeWidth={i % large ? 0.15 : 0.3} />
      })}
      <text
        fontSize={2.7}
        x={upright ? -long / 2 : long / 2}
        y={upright ? STRIP + 3.4 : STRIP + 3.2}
        transform={upright ? 'rotate(-90)' : undefined}
        textAnchor="middle"
      >
        {words ?? '____'}
      </text>
    </g>
  )
}

/** A text in at most two lines of so many letters. */
function lines(text: string, letters: number): string[] {
  if (text.length <= letters) return text ? [text] : []
  const at = text.lastIndexOf(' ', letters)
  const rest = text.slice(at + 1)
  return [text.slice(0, at), rest.length > letters * 1.04 ? `${rest.slice(0, rest.lastIndexOf(' ', letters - 2))} …` : rest]
}
