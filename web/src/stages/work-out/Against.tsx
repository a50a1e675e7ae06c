import { LinePath } from '@visx/shape'
import type { Analysis, Study } from '../../data/api'
import type { SeenTrial } from '../../machines/turns'
import { colourOf, place, shapeOf } from '../../tape/geometry'
import { Plot } from '../../tape/Plot'
import { Mark } from '../../tape/Tape'
import { levelIndex } from '../../data/trials'
import { marksOf } from '../../tape/marks'

type Trend = Extract<Analysis['effect'], { kind: 'trend' }>['trend']
type Props = { study: Study; seen: SeenTrial[]; trend: Trend; analysis: Analysis; response: string; band: readonly (readonly number[])[] }

/** The tape laid along the variable: every trial where it was read, means as bars, and the preferred form through them with the band in
 *  which its mean lies. */
export function Against({ study, seen, trend, analysis, response, band }: Props) {
  const form = trend.forms.find((f) => f.form === trend.preferred) ?? trend.forms[0]
  const unit = analysis.response.unit ?? ''
  const marks = study.levels.flatMap((l, i) =>
    marksOf(
      seen.filter((t) => t.level === l.id),
      response,
      unit,
    ).map((m) => ({ ...m, shape: i, at: Number(analysis.levels.find((s) => levelIndex(study, s.level) === i)?.level ?? Number.NaN) })),
  )
  const ys = [...marks.map((m) => m.value), ...(form?.curve ?? []).map((p) => p[1])]
  return (
    <Plot
      xs={analysis.levels.map((l) => Number(l.level))}
      ys={ys.length ? ys : [0, 1]}
      xUnit={analysis.factor.unit ?? ''}
      yUnit={unit}
      label={`${analysis.response.name} against ${analysis.factor.name}, with the ${trend.preferred} through the trials${band.length ? ' and its 95 % band' : ''}`}
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
          <LinePath data={[...(form?.curve ?? [])]} x={(p) => x(p[0])} y={(p) => y(p[1])} stroke="var(--ink)" strokeWidth={3} fill="none" />
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
          {marks
            .filter((m) => Number.isFinite(m.at))
            .map((m) =>
              m.kind === 'at_least' || m.kind === 'at_most' ? (
                <g key={m.id} transform={`translate(${x(m.at)} ${y(m.value)})`} fill="none" stroke={colourOf(m.shape)} strokeWidth={2.5}>
                  <path d={shapeOf(m.shape)(9)} fill="var(--floor)" />
                  <path d={m.kind === 'at_least' ? 'M 0 -9 v -16 m -5 6 l 5 -6 l 5 6' : 'M 0 9 v 16 m -5 -6 l 5 6 l 5 -6'} />
                </g>
              ) : (
                <Mark key={m.id} mark={{ ...m, x: x(m.at), lift: 0 }} shape={m.shape} r={lone(marks, m, y) ? 9 : 6.5} y={y(m.value)} />
              ),
            )}
        </>
      )}
    </Plot>
  )
}

type Placed = ReturnType<typeof marksOf>[number] & { at: number }
/** Whether nothing of the same setting lies so near that the two would cover each other: those are drawn smaller, each at its own place. */
function lone(marks: readonly Placed[], m: Placed, y: (v: number) => number): boolean {
  const mine = place(
    marks.filter((o) => o.at === m.at),
    y,
    18,
  )
  return !mine.some((o) => o.id !== m.id && Math.abs(y(o.value) - y(m.value)) < 16)
}
