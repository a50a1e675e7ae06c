import { LinePath } from '@visx/shape'
import type { Analysis, Study } from '../../data/api'
import type { SeenTrial } from '../../machines/turns'
import { colourOf, shapeOf } from '../../tape/geometry'
import { Marks } from '../../tape/Marks'
import { Plot, type Where } from '../../tape/Plot'
import { levelIndex } from '../../data/trials'
import { marksOf } from '../../tape/marks'

import { FORMS } from './EffectNumbers'
type Trend = Extract<Analysis['effect'], { kind: 'trend' }>['trend']
type Props = { study: Study; seen: SeenTrial[]; trend: Trend; analysis: Analysis; response: string; band: readonly (readonly number[])[] }

/** The tape laid along the variable: every trial where it was read, means as bars, and the preferred form through them with the band in
 *  which its mean lies. */
export function Against({ study, seen, trend, analysis, response, band }: Props) {
  const form = trend.drawn ? (trend.forms.find((f) => f.form === trend.preferred) ?? trend.forms[0]) : undefined
  const unit = analysis.response.unit ?? ''
  const rows = study.levels.map((l, i) => {
    const at = Number(analysis.levels.find((s) => levelIndex(study, s.level) === i)?.level ?? Number.NaN)
    const mine = seen.filter((t) => t.level === l.id)
    return Number.isFinite(at) ? marksOf(mine, response, unit).map((m) => ({ ...m, at })) : []
  })
  const ys = [...rows.flat().map((m) => m.value), ...(form?.curve ?? []).map((p) => p[1])]
  return (
    <Plot
      xs={analysis.levels.map((l) => Number(l.level))}
      ys={ys.length ? ys : [0, 1]}
      xUnit={analysis.factor.unit ?? ''}
      yUnit={unit}
      label={`${analysis.response.name} against ${analysis.factor.name}, ${form ? `with the ${FORMS[form.form]}` : 'without a line'}${band.length ? ' and its 95 % band' : ''}`}
    >
      {({ x, y }) => (
        <>
          {band.length ? (
            <path
              data-band
              d={`M ${[...band.map(([at, low]) => `${x(at ?? 0)} ${y(low ?? 0)}`), ...[...band].reverse().map(([at, , top]) => `${x(at ?? 0)} ${y(top ?? 0)}`)].join(' L ')} Z`}
              fill="var(--tape)"
              opacity={0.35}
            />
          ) : null}
          {form ? <LinePath data-line data={[...form.curve]} x={(p) => x(p[0])} y={(p) => y(p[1])} stroke="var(--ink)" strokeWidth={3} fill="none" /> : null}
          {analysis.levels.map((l) =>
            l.mean === null || l.mean === undefined ? null : (
              <line
                key={String(l.level)}
                x1={x(Number(l.level)) - 20}
                x2={x(Number(l.level)) + 20}
                y1={y(l.mean)}
                y2={y(l.mean)}
                stroke={colourOf(levelIndex(study, l.level))}
                strokeWidth={4}
              />
            ),
          )}
          {study.levels.map((l, i) => (
            <OfLevel key={l.id} marks={rows[i] ?? []} shape={i} x={x} y={y} />
          ))}
        </>
      )}
    </Plot>
  )
}

type Placed = ReturnType<typeof marksOf>[number] & { at: number }
/** The trials of one level. Those that would cover each other are drawn smaller, each at its own place; a bound is an arrow. */
function OfLevel({ marks, shape, x, y }: { marks: readonly Placed[]; shape: number; x: Where['x']; y: Where['y'] }) {
  const heights = marks.map((m) => y(m.value)).sort((a, b) => a - b)
  const near = heights.some((h, i) => i > 0 && h - (heights[i - 1] ?? 0) < 16)
  const plain = marks.filter((m) => m.kind !== 'at_least' && m.kind !== 'at_most')
  return (
    <>
      <Marks spots={plain.map((m) => ({ ...m, x: x(m.at), y: y(m.value), lift: 0 }))} shape={shape} r={near ? 6.5 : 9} />
      {marks
        .filter((m) => m.kind === 'at_least' || m.kind === 'at_most')
        .map((m) => (
          <g key={m.id} transform={`translate(${x(m.at)} ${y(m.value)})`} fill="none" stroke={colourOf(shape)} strokeWidth={2.5}>
            <path d={shapeOf(shape)(9)} fill="var(--floor)" />
            <path d={m.kind === 'at_least' ? 'M 0 -9 v -16 m -5 6 l 5 -6 l 5 6' : 'M 0 9 v 16 m -5 -6 l 5 6 l 5 -6'} />
          </g>
        ))}
    </>
  )
}
