import type { RotaMade, Sitting } from '../../data/api'
import { clockAt } from '../../machines/clock'
import { strip } from '../../tape/geometry'
import { Strip_, useWidth } from '../../tape/Tape'

const ROW = 34
export const DOES: Record<Sitting['what'], string> = { build: 'builds', test: 'tests', improve: 'improves', wait: 'free', tidy: 'tidies up' }

export const laneAt = (made: RotaMade, lane: number, minute: number) =>
  made.rota.sittings.find((s) => s.what === 'test' && s.lane === lane && s.start <= minute && minute < s.end)
export const nextOnLane = (made: RotaMade, lane: number, minute: number) =>
  made.rota.sittings.filter((s) => s.what === 'test' && s.lane === lane && s.start > minute).sort((a, b) => a.start - b.start)[0]

/** The lesson laid along a tape of minutes: one row for each group; a test is a solid block with its lane. */
export function RotaChart({ made, now, large = false }: { made: RotaMade; now?: number; large?: boolean }) {
  const [ref, width] = useWidth()
  const row = large ? 46 : ROW
  const x0 = Math.min(large ? 190 : 130, 26 + Math.max(...made.lesson.groups.map((g) => g.length)) * (large ? 15 : 10))
  const inner = Math.max(100, width - x0 - 50)
  const s = strip([0, Math.max(made.rota.needs, made.lesson.minutes) / 1.12], inner)
  const base = made.lesson.groups.length * row + 12
  const end = made.lesson.minutes
  const here = now !== undefined && now >= 0 && now <= s.to ? s.x(now) : null
  const caption = `Rota: ${made.rota.sittings
    .filter((v) => v.what === 'test')
    .map((v) => `${v.group} tests on lane ${v.lane} from ${clockAt(made.start, v.start)} to ${clockAt(made.start, v.end)}`)
    .join('; ')}.`
  return (
    <figure ref={ref} className="m-0 w-full overflow-x-clip">
      {width > 0 ? (
        <svg width={width} height={base + 62} role="img" aria-label={caption}>
          {made.lesson.groups.map((g, i) => (
            <text key={g} x={0} y={i * row + row * 0.66} className="big" fontSize={large ? 26 : 18} fill="var(--ink)">
              {g}
            </text>
          ))}
          <g transform={`translate(${x0} 0)`}>
            {here !== null ? <line x1={here} x2={here} y1={0} y2={base} stroke="var(--ink)" strokeWidth={4} /> : null}
            {made.rota.sittings.map((v) => (
              <Block
                key={`${v.group}-${v.what}-${v.start}`}
                v={v}
                x={s.x(v.start)}
                w={s.x(v.end) - s.x(v.start)}
                y={made.lesson.groups.indexOf(v.group) * row + 4}
                h={row - 8}
              />
            ))}
            <line x1={s.x(end)} x2={s.x(end)} y1={0} y2={base} stroke="var(--doubt)" strokeWidth={2.5} strokeDasharray="6 4" />
          </g>
          <Strip_ s={s} x0={x0} width={inner} y={base} height={50} unit="min" />
          {here !== null ? <path d={`M ${x0 + here} ${base + 30} l -13 -34 h 26 z`} fill="var(--ink)" /> : null}
        </svg>
      ) : null}
      <figcaption className="mt-1 text-quiet">
        Filled: a test, with its lane. Outlined: building.{made.rota.sittings.some((v) => v.what === 'improve') ? ' Hatched: improving.' : ''} Dashed line: the
        bell.
      </figcaption>
    </figure>
  )
}

function Block({ v, x, w, y, h }: { v: Sitting; x: number; w: number; y: number; h: number }) {
  if (v.what === 'wait') return <line x1={x} x2={x + w} y1={y + h / 2} y2={y + h / 2} stroke="var(--hair)" strokeWidth={2} />
  if (v.what === 'test')
    return (
      <g>
        <rect x={x + 1} y={y} width={Math.max(w - 2, 2)} height={h} fill="var(--act)" />
        {w > 16 ? (
          <text x={x + w / 2} y={y + h * 0.72} textAnchor="middle" className="big" fontSize={h * 0.62} fill="var(--act-ink)">
            {v.lane}
          </text>
        ) : null}
      </g>
    )
  if (v.what === 'improve') {
    const lines = Array.from({ length: Math.max(0, Math.floor(w / 7)) }, (_, i) => x + 5 + i * 7)
    return (
      <g stroke="var(--ink)" strokeWidth={1.4}>
        <rect x={x + 1} y={y} width={Math.max(w - 2, 2)} height={h} fill="none" />
        {lines.map((at) => (
          <line key={at} x1={at} x2={Math.max(at - 6, x + 1)} y1={y} y2={y + h} />
        ))}
      </g>
    )
  }
  return (
    <rect
      x={x + 1}
      y={y}
      width={Math.max(w - 2, 2)}
      height={h}
      fill="none"
      stroke="var(--ink)"
      strokeWidth={v.what === 'tidy' ? 1 : 2}
      strokeDasharray={v.what === 'tidy' ? '3 3' : undefined}
    />
  )
}

/** The same rota to be read aloud or printed: each group's way through the lesson. */
export function RotaTable({ made }: { made: RotaMade }) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse text-left">
        <thead>
          <tr className="text-quiet">
            <th className="py-1 pr-4 font-semibold">Group</th>
            <th className="py-1 font-semibold">When, what and where</th>
          </tr>
        </thead>
        <tbody>
          {made.lesson.groups.map((g) => (
            <tr key={g} className="hair align-top">
              <td className="big py-2 pr-5 text-[1.15rem]">{g}</td>
              <td className="py-2">
                {made.rota.sittings
                  .filter((v) => v.group === g && v.what !== 'wait')
                  .map((v) => (
                    <span key={`${v.what}${v.start}`} className="num mr-5 inline-block whitespace-nowrap">
                      {clockAt(made.start, v.start)} {DOES[v.what]}
                      {v.lane ? `, lane ${v.lane}` : ''}
                      {v.adult ? `, adult ${v.adult}` : ''}
                    </span>
                  ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
