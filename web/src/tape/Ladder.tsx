import type { Study, Turn } from '../data/api'
import { labelOf, levelIndex } from '../data/trials'
import { type Drop, dropsOf, everyRung } from '../machines/drops'
import type { SeenTrial } from '../machines/turns'
import { colourOf, shapeOf } from './geometry'
import { linear } from './scale'
import { useWidth } from './Tape'

const HEIGHT = 300
const TAPE = 54
const COLUMN = 46

/** The tape stood upright: every specimen is a column of its drops, failed ones open and struck, with a bracket between the last rung
 *  passed and the first failed, and an arrow off the top. */
export function Ladder({ study, seen, now }: { study: Study; seen: readonly SeenTrial[]; now?: Turn | undefined }) {
  const [ref, width] = useWidth()
  const rungs = study.rungs
  const top = Math.max(...rungs)
  const y = linear(0, top * 1.12, HEIGHT - 16, 12)
  const turns = study.turns
    .map((t) => ({ turn: t, drops: dropsOf(study, seen, t) }))
    .filter((c) => c.drops.length || (now && c.turn.block === now.block && c.turn.level === now.level))
  const columns = study.levels.flatMap((l) => turns.filter((c) => c.turn.level === l.id))
  const room = Math.max(1, Math.floor((width - TAPE - 40) / COLUMN))
  // with more columns than fit, those of the level in hand and the newest stay in sight
  const shown = columns.length > room ? columns.slice(-room) : columns
  const unit = study.draft.drop?.unit ?? 'm'
  const every = everyRung(study)
  return (
    <div ref={ref} className="overflow-x-clip">
      {width > 0 ? (
        <svg
          width={width}
          height={HEIGHT + 46}
          role="img"
          aria-label={`Drops so far. ${study.levels
            .map(
              (l) =>
                `${l.label}: ${
                  columns
                    .filter((c) => c.turn.level === l.id)
                    .map((c) => says(c.drops, unit, every))
                    .join(', ') || 'none yet'
                }`,
            )
            .join('; ')}.`}
          data-ladder
        >
          <rect x={0} y={y(top * 1.12)} width={TAPE} height={HEIGHT - 8 - y(top * 1.12)} fill="var(--tape)" />
          <line x1={TAPE} x2={TAPE} y1={y(top * 1.12)} y2={HEIGHT - 8} stroke="var(--tape-edge)" strokeWidth={4} />
          {rungs.map((r) => (
            <g key={r}>
              <line x1={TAPE - 16} x2={width} y1={y(r)} y2={y(r)} stroke="var(--hair)" strokeWidth={2} />
              <line x1={TAPE - 16} x2={TAPE} y1={y(r)} y2={y(r)} stroke="var(--tape-ink)" strokeWidth={2} />
              <text x={TAPE - 20} y={y(r) + 6} textAnchor="end" className="big" fontSize={17} fill="var(--tape-ink)">
                {r}
              </text>
            </g>
          ))}
          <text x={6} y={HEIGHT - 14} className="big" fontSize={15} fill="var(--tape-ink)">
            {unit}
          </text>
          {shown.map((c, i) => (
            <Column
              key={`${c.turn.block}:${c.turn.level}`}
              x={TAPE + 30 + i * COLUMN}
              drops={c.drops}
              shape={levelIndex(study, c.turn.level)}
              y={y}
              top={top}
              every={every}
              name={i === 0 || shown[i - 1]?.turn.level !== c.turn.level ? labelOf(study, c.turn.level) : ''}
              here={now?.block === c.turn.block && now.level === c.turn.level}
            />
          ))}
        </svg>
      ) : null}
    </div>
  )
}

function says(drops: readonly Drop[], unit: string, every: boolean): string {
  if (every) return `${drops.filter((d) => d.survived).length} of ${drops.length} survived`
  const passed = drops.filter((d) => d.survived).map((d) => d.height)
  const failed = drops.filter((d) => !d.survived).map((d) => d.height)
  if (!drops.length) return 'not dropped yet'
  if (!failed.length) return `at least ${Math.max(...passed)} ${unit}`
  return passed.length ? `between ${Math.max(...passed)} and ${Math.min(...failed)} ${unit}` : `below ${Math.min(...failed)} ${unit}`
}

function Column({
  x,
  drops,
  shape,
  y,
  top,
  every,
  name,
  here,
}: {
  x: number
  drops: readonly Drop[]
  shape: number
  y: (v: number) => number
  top: number
  every: boolean
  name: string
  here: boolean
}) {
  const passed = drops.filter((d) => d.survived).map((d) => d.height)
  const failed = drops.filter((d) => !d.survived).map((d) => d.height)
  const high = passed.length ? Math.max(...passed) : null
  const low = failed.length ? Math.min(...failed) : null
  const colour = colourOf(shape)
  return (
    <g>
      {!every && high !== null && low !== null && low > high ? (
        <path d={`M ${x + 13} ${y(high)} h 6 V ${y(low)} h -6`} fill="none" stroke={colour} strokeWidth={2.5} data-bracket />
      ) : null}
      {!every && high !== null && low === null && high >= top ? (
        <path d={`M ${x} ${y(high) - 12} v -14 m -5 6 l 5 -6 l 5 6`} fill="none" stroke={colour} strokeWidth={2.5} />
      ) : null}
      {!every && high === null && low !== null ? (
        <path d={`M ${x} ${y(low) + 12} v 14 m -5 -6 l 5 6 l 5 -6`} fill="none" stroke={colour} strokeWidth={2.5} />
      ) : null}
      {drops.map((d) => (
        <g key={`${d.height}${d.survived}`} transform={`translate(${x} ${y(d.height)})`}>
          <path d={shapeOf(shape)(9)} fill={d.survived ? colour : 'var(--floor)'} stroke={colour} strokeWidth={2.5} />
          {d.survived ? null : <path d="M -11 -11 L 11 11" stroke={colour} strokeWidth={2.5} />}
        </g>
      ))}
      {name ? (
        <text x={x - 12} y={HEIGHT + 16} className="big" fontSize={16} fill="var(--ink)">
          {name}
        </text>
      ) : null}
      {here ? <path d={`M ${x - 12} ${HEIGHT + 28} h 24`} stroke="var(--ink)" strokeWidth={4} /> : null}
    </g>
  )
}
