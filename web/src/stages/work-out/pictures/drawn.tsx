import { counted } from '../../../parts/counted'
import type { Pictures, Study } from '../../../data/api'
import { levelIndex } from '../../../data/trials'
import { colourOf } from '../../../tape/geometry'
import { Marks } from '../../../tape/Marks'
import { minus, Plot, type Where } from '../../../tape/Plot'
import { Mark } from '../../../tape/Tape'

/** What a picture shows, as a table for whoever cannot see it or wants the numbers. */
export type Numbers = { head: string[]; rows: string[][] }
type Of<K extends keyof Pictures> = NonNullable<Pictures[K]>
const three = (v: number) => minus(v, 3)
const dot = (d: { trial: number | null; x: number; y: number }, i: number) => ({ id: `${d.trial ?? ''} ${i}`, value: d.y, kind: 'exact' as const, lift: 0 })
export const named = (study: Study, level: string | number) => study.levels[levelIndex(study, level)]?.label ?? String(level)

/** The trials of every level, each at its two numbers. */
function Dots({ study, dots, at, r }: { study: Study; dots: Of<'order'>['dots']; at: Pick<Where, 'x' | 'y'>; r: number }) {
  const levels = [...new Set(dots.map((d) => d.level))]
  return levels.map((level) => (
    <Marks
      key={String(level)}
      spots={dots.flatMap((d, i) => (d.level === level ? [{ ...dot(d, i), x: at.x(d.x), y: at.y(d.y) }] : []))}
      shape={levelIndex(study, level)}
      r={r}
    />
  ))
}

/** By how much each trial misses the form through all of them, over the setting. */
export function Misses({ study, fit, unit, factor, factorUnit }: { study: Study; fit: Of<'fit'>; unit: string; factor: string; factorUnit: string }) {
  return (
    <Plot
      nought
      xs={fit.misses.map((d) => d.x)}
      ys={[...fit.misses.map((d) => d.y), fit.spread ?? 0]}
      xUnit={factorUnit}
      yUnit={unit}
      label={`By how much each trial misses the ${fit.form}, over ${factor}`}
    >
      {({ x, y, left, right }) => (
        <>
          {fit.spread === null ? null : (
            <rect x={left} width={right - left} y={y(fit.spread)} height={y(-fit.spread) - y(fit.spread)} fill="var(--tape)" opacity={0.25} />
          )}
          <Dots study={study} dots={fit.misses} at={{ x, y }} r={7} />
        </>
      )}
    </Plot>
  )
}

export const missesTable = (study: Study, fit: Of<'fit'>, unit: string): Numbers => ({
  head: ['trial', study.draft.variable.name, `misses by / ${unit}`],
  rows: fit.misses.map((d) => [String(d.trial ?? '–'), named(study, d.level), three(d.y)]),
})

/** Each reading less the mean of its level, in the order of release: whether something changed as the lesson went on. */
export function InOrder({ study, order, unit }: { study: Study; order: Of<'order'>; unit: string }) {
  const xs = order.dots.map((d) => d.x)
  const [from, to] = [Math.min(...xs), Math.max(...xs)]
  const slope = order.slope
  const middle = (from + to) / 2
  return (
    <Plot
      nought
      step={1}
      xs={xs}
      ys={order.dots.map((d) => d.y)}
      xUnit="trial"
      yUnit={unit}
      label="Each reading less the mean of its level, in order of release"
    >
      {({ x, y }) => (
        <>
          {slope === null ? null : (
            <line
              data-drift
              x1={x(from)}
              x2={x(to)}
              y1={y(slope * (from - middle))}
              y2={y(slope * (to - middle))}
              stroke="var(--ink)"
              strokeWidth={3}
              strokeDasharray={order.p !== null && order.p < 0.05 ? undefined : '7 6'}
            />
          )}
          <Dots study={study} dots={order.dots} at={{ x, y }} r={8} />
        </>
      )}
    </Plot>
  )
}

export const orderTable = (study: Study, order: Of<'order'>, unit: string): Numbers => ({
  head: ['trial', study.draft.variable.name, `less its level’s mean / ${unit}`],
  rows: order.dots.map((d) => [String(d.trial ?? '–'), named(study, d.level), three(d.y)]),
})

/** The floor from above: the line that was laid, every landing, each level's middle as a cross and the ring that holds half of its landings. */
export function Landed({ study, landed, unit }: { study: Study; landed: Of<'landed'>; unit: string }) {
  const dots = landed.flatMap((l) => l.dots)
  const reach = landed.flatMap((l) => [l.off + l.half_radius, l.off - l.half_radius])
  return (
    <Plot
      nought
      high={380}
      xs={[0, ...dots.map((d) => d.x), ...landed.map((l) => l.along + l.half_radius)]}
      ys={[...dots.map((d) => -d.y), ...reach]}
      xUnit={unit}
      yUnit={unit}
      word={(v) => (v === 0 ? '0' : `${minus(Math.abs(v))} ${v > 0 ? 'l' : 'r'}`)}
      label="Where the trials landed, seen from above: left of the line above it, right below"
    >
      {({ x, y, left }) => (
        <>
          <text x={left + 6} y={y(0) - 6} className="big" fontSize={14} fill="var(--quiet)">
            the line
          </text>
          {landed.map((l) => {
            const i = levelIndex(study, l.level)
            return (
              <g key={String(l.level)} data-level={String(l.level)}>
                <ellipse
                  cx={x(l.along)}
                  cy={y(-l.off)}
                  rx={x(l.half_radius) - x(0)}
                  ry={y(0) - y(l.half_radius)}
                  fill="none"
                  stroke={colourOf(i)}
                  strokeWidth={2.5}
                  strokeDasharray={i % 2 ? undefined : '7 5'}
                />
                <path d={`M ${x(l.along) - 11} ${y(-l.off)} h 22 m -11 -11 v 22`} stroke={colourOf(i)} strokeWidth={3} />
                <Marks spots={l.dots.map((d, n) => ({ ...dot(d, n), x: x(d.x), y: y(-d.y) }))} shape={i} r={8} />
              </g>
            )
          })}
        </>
      )}
    </Plot>
  )
}

export const landedTable = (study: Study, landed: Of<'landed'>, unit: string): Numbers => ({
  head: [study.draft.variable.name, 'landings', `along / ${unit}`, `off the line / ${unit}`, `mean off the line / ${unit}`, `half within / ${unit}`],
  rows: landed.map((l) => [named(study, l.level), String(l.dots.length), three(l.along), three(l.off), three(l.mean_off), three(l.half_radius)]),
})

/** How far and how straight together: each level's mean distance along, and its mean distance off the line upright. */
export function Straight({ study, landed, unit }: { study: Study; landed: Of<'landed'>; unit: string }) {
  return (
    <Plot
      xs={landed.flatMap((l) => [l.along - l.half_radius, l.along + l.half_radius])}
      ys={[0, ...landed.map((l) => l.mean_off)]}
      xUnit={unit}
      yUnit={unit}
      label="Mean distance off the line against mean distance along it, a mark for each level"
    >
      {({ x, y }) =>
        landed.map((l) => {
          const i = levelIndex(study, l.level)
          return (
            <g key={String(l.level)}>
              <Mark mark={{ id: String(l.level), value: l.mean_off, kind: 'exact', lift: 0, x: x(l.along) }} shape={i} r={12} y={y(l.mean_off)} />
              <text x={x(l.along) + 18} y={y(l.mean_off) + 6} className="big" fontSize={17} fill="var(--ink)">
                {named(study, l.level)}
              </text>
            </g>
          )
        })
      }
    </Plot>
  )
}

/** Two variables at once: a line for each setting of the second over the first; lines that cross or part mean that one depends on the other. */
export function Crossed({ study, cells, unit }: { study: Study; cells: Of<'crossed'>; unit: string }) {
  const firsts = [...new Set(cells.map((c) => c.first))]
  const seconds = [...new Set(cells.map((c) => c.second))]
  const numbers = firsts.every((v) => typeof v === 'number')
  const at = (v: string | number) => (numbers ? Number(v) : firsts.indexOf(v) + 1)
  const { variable, second } = study.draft
  return (
    <Plot
      xs={firsts.map(at)}
      ys={cells.map((c) => c.mean)}
      xUnit={numbers ? (variable.unit ?? '') : ''}
      yUnit={unit}
      label={`Means over ${variable.name}, a line for each ${second?.name ?? 'setting'}`}
    >
      {({ x, y }) =>
        seconds.map((s, i) => {
          const mine = cells.filter((c) => c.second === s).sort((a, b) => at(a.first) - at(b.first))
          const end = mine.at(-1)
          return (
            <g key={String(s)} data-second={String(s)}>
              <polyline
                points={mine.map((c) => `${x(at(c.first))},${y(c.mean)}`).join(' ')}
                fill="none"
                stroke={colourOf(i)}
                strokeWidth={3}
                strokeDasharray={['', '9 5', '3 5', '12 4 3 4'][i % 4] || undefined}
              />
              {mine.map((c) => (
                <Mark
                  key={String(c.first)}
                  mark={{ id: String(c.first), value: c.mean, kind: 'exact', lift: 0, x: x(at(c.first)) }}
                  shape={i}
                  r={9}
                  y={y(c.mean)}
                />
              ))}
              {end ? (
                <text x={x(at(end.first)) - 14} y={y(end.mean) - 14} textAnchor="end" className="big" fontSize={16} fill="var(--ink)">
                  {String(s)} {typeof s === 'number' ? (second?.unit ?? '') : ''}
                </text>
              ) : null}
            </g>
          )
        })
      }
    </Plot>
  )
}

export const crossedTable = (study: Study, cells: Of<'crossed'>, unit: string): Numbers => ({
  head: [study.draft.variable.name, study.draft.second?.name ?? '', `mean / ${unit}`, 'trials'],
  rows: cells.map((c) => [String(c.first), String(c.second), minus(c.mean, 4), String(c.trials)]),
})

/** Places over all heats: each level at its mean place, first on the left. */
export function Heats({ study, heats }: { study: Study; heats: Of<'heats'> }) {
  const rows = heats.places.map((_, i) => heats.places.length - i)
  return (
    <Plot
      xs={[1, heats.places.length]}
      ys={[0, ...rows]}
      high={90 + 44 * rows.length}
      step={1}
      xUnit="place"
      yUnit=""
      word={() => ''}
      label={`Mean place of each level over ${counted(heats.heats, 'heat')}`}
    >
      {({ x, y, left }) =>
        heats.places.map((p, i) => {
          const shape = levelIndex(study, p.level)
          return (
            <g key={String(p.level)}>
              <line x1={left} x2={x(p.mean_rank)} y1={y(rows[i] ?? 0)} y2={y(rows[i] ?? 0)} stroke={colourOf(shape)} strokeWidth={3} />
              <Mark mark={{ id: String(p.level), value: p.mean_rank, kind: 'exact', lift: 0, x: x(p.mean_rank) }} shape={shape} r={10} y={y(rows[i] ?? 0)} />
              <text x={x(p.mean_rank) + 16} y={y(rows[i] ?? 0) + 6} className="big" fontSize={17} fill="var(--ink)">
                {named(study, p.level)}, {minus(p.mean_rank, 3)}
              </text>
            </g>
          )
        })
      }
    </Plot>
  )
}

export const heatsTable = (study: Study, heats: Of<'heats'>): Numbers => ({
  head: [study.draft.variable.name, `mean place of ${counted(heats.heats, 'heat')}`],
  rows: heats.places.map((p) => [named(study, p.level), minus(p.mean_rank, 3)]),
})
