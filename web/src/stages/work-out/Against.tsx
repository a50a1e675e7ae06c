import { scaleLinear } from '@visx/scale'
import { LinePath } from '@visx/shape'
import type { Analysis, Study } from '../../data/api'
import type { SeenTrial } from '../../machines/turns'
import { colourOf, place, shapeOf, strip } from '../../tape/geometry'
import { Mark, Strip_, useWidth } from '../../tape/Tape'
import { levelIndex } from '../../data/trials'
import { marksOf } from '../../tape/marks'

type Trend = Extract<Analysis['effect'], { kind: 'trend' }>['trend']
const HEIGHT = 320

/** The tape laid along the variable: every trial where it was read, means as bars, and the preferred form through them. */
export function Against({ study, seen, trend, analysis, response }: { study: Study; seen: SeenTrial[]; trend: Trend; analysis: Analysis; response: string }) {
  const [ref, width] = useWidth()
  const values = analysis.levels.map((l) => Number(l.level))
  const form = trend.forms.find((f) => f.form === trend.preferred) ?? trend.forms[0]
  const marks = study.levels.flatMap((l, i) =>
    marksOf(
      seen.filter((t) => t.level === l.id),
      response,
      analysis.response.unit ?? '',
    ).map((m) => ({ ...m, shape: i, at: Number(l.text.replace('−', '-')) })),
  )
  const x0 = 70
  const inner = Math.max(60, width - x0 - 52)
  const tape = strip(values, inner)
  const ys = [...marks.map((m) => m.value), ...(form?.curve ?? []).map((p) => p[1])]
  const low = Math.min(...ys)
  const high = Math.max(...ys)
  const from = low >= 0 && low < (high - low) * 1.2 ? 0 : low - (high - low) * 0.12
  const y = scaleLinear<number>({ domain: [from, high + (high - low) * 0.08 || 1], range: [HEIGHT - 20, 10] })
  const unit = analysis.response.unit ?? ''
  // marks of one level that would cover each other stand side by side
  const aside = study.levels.flatMap((_, i) =>
    place(
      marks.filter((m) => m.shape === i),
      y,
      18,
    ).map((p) => {
      const m = marks.find((x) => x.id === p.id) as (typeof marks)[number]
      return { ...m, left: x0 + tape.x(m.at) + Math.ceil(p.lift / 2) * (p.lift % 2 ? 19 : -19) }
    }),
  )
  return (
    <div ref={ref} className="overflow-x-clip">
      {width > 0 ? (
        <svg
          width={width}
          height={HEIGHT + 64}
          role="img"
          aria-label={`${analysis.response.name} against ${analysis.factor.name}, with the ${trend.preferred} through the trials`}
        >
          {y.ticks(6).map((v) => (
            <g key={v}>
              <line x1={x0} x2={x0 + inner} y1={y(v)} y2={y(v)} stroke="var(--hair)" />
              <text x={x0 - 20} y={y(v) + 5} textAnchor="end" className="big" fontSize={16} fill="var(--ink)">
                {Number(v.toPrecision(6)).toString().replace('-', '−')}
              </text>
            </g>
          ))}
          <text x={0} y={14} className="big" fontSize={15} fill="var(--quiet)">
            {unit}
          </text>
          {from === 0 ? null : <path d={`M ${x0 - 8} ${HEIGHT - 14} l 8 -6 l -8 -6 l 8 -6`} fill="none" stroke="var(--ink)" strokeWidth={2} />}
          <LinePath data={[...(form?.curve ?? [])]} x={(p) => x0 + tape.x(p[0])} y={(p) => y(p[1])} stroke="var(--ink)" strokeWidth={3} fill="none" />
          {analysis.levels.map((l) => {
            const i = levelIndex(study, l.level)
            return l.mean === null || l.mean === undefined ? null : (
              <line
                key={String(l.level)}
                x1={x0 + tape.x(Number(l.level)) - 20}
                x2={x0 + tape.x(Number(l.level)) + 20}
                y1={y(l.mean)}
                y2={y(l.mean)}
                stroke={colourOf(i)}
                strokeWidth={4}
              />
            )
          })}
          {aside.map((m) =>
            m.kind === 'at_least' || m.kind === 'at_most' ? (
              <g key={m.id} transform={`translate(${m.left} ${y(m.value)})`} fill="none" stroke={colourOf(m.shape)} strokeWidth={2.5}>
                <path d={shapeOf(m.shape)(9)} fill="var(--floor)" />
                <path d={m.kind === 'at_least' ? 'M 0 -9 v -16 m -5 6 l 5 -6 l 5 6' : 'M 0 9 v 16 m -5 -6 l 5 6 l 5 -6'} />
              </g>
            ) : (
              <Mark key={m.id} mark={{ ...m, x: m.left, lift: 0 }} shape={m.shape} r={9} y={y(m.value)} />
            ),
          )}
          <Strip_ s={tape} x0={x0} width={inner} y={HEIGHT} height={54} unit={analysis.factor.unit ?? ''} />
        </svg>
      ) : null}
    </div>
  )
}
