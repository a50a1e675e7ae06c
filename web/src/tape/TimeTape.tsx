import type { ReactNode } from 'react'
import { colourOf, shapeOf } from './geometry'
import { linear } from './scale'
import { Strip_, useWidth } from './Tape'

export type TimeMark = { id: string; at: number; shape: number; kind: 'kept' | 'void' | 'asked' }
export type TimeRow = {
  key: string
  over: string
  name: string
  below: ReactNode
  marks: TimeMark[]
  /** What goes on there now, beside the line of the present. */
  now?: { big: string; small: string } | undefined
  /** Since when it is shut, and why. */
  shut?: { at: number; says: string } | undefined
  quiet?: boolean
}

const MAJOR = [1, 2, 5, 10, 15, 20, 30, 60]

/** The lesson's time as the tape: every lane a row, every trial a mark where it was kept. All in minutes since the lesson began. */
export function TimeTape({
  rows,
  to,
  now,
  clock,
  lastCall,
  lastIn,
  label,
}: {
  rows: readonly TimeRow[]
  to: number
  now: number
  clock: string
  lastCall: number
  lastIn: number | null
  label: string
}) {
  const [ref, width] = useWidth()
  const narrow = width < 620
  const x0 = narrow ? 104 : 186
  const end = Math.max(1, to, now)
  const inner = Math.max(60, width - x0 - 52)
  const x = linear(0, end, 0, inner)
  const apart = MAJOR.find((m) => (m / end) * inner >= 62) ?? 60
  const major = Array.from({ length: Math.floor(end / apart) + 1 }, (_, i) => i * apart)
  const fine = apart <= 5 ? 1 : apart / 5
  const minor = Array.from({ length: Math.floor(end / fine) + 1 }, (_, i) => i * fine).filter((v) => v % apart !== 0 && (fine / end) * inner > 5)
  // the rows share what the window has above the buttons
  const high = narrow ? 178 : Math.max(118, Math.min(240, (window.innerHeight - 330) / Math.max(1, rows.length)))
  const foot = rows.length * high + 26
  const strip = { from: 0, to: end, broken: false, x, major, minor, label: (v: number) => String(v) }
  const at = (v: number) => x0 + x(Math.max(0, Math.min(end, v)))
  const left = at(now) > x0 + inner * 0.62
  return (
    <div ref={ref} className="relative w-full overflow-x-clip" data-time-tape>
      {width > 0 ? (
        <>
          <svg width={width} height={foot + 74} role="img" aria-label={label}>
            {rows.map((r, i) => {
              const y = 26 + i * high + high - 34
              return (
                <g key={r.key} data-row={r.key}>
                  <line x1={x0} x2={x0 + inner} y1={y + 13} y2={y + 13} stroke="var(--hair)" strokeWidth={1.6} />
                  {dodged(r.marks, at).map((m) => (
                    <g key={m.id} transform={`translate(${m.x.toFixed(1)} ${(y - m.lift * 19).toFixed(1)})`} data-mark={m.kind}>
                      {m.kind === 'void' ? (
                        <g fill="none" stroke="var(--quiet)" strokeWidth={2}>
                          <circle r={9} />
                          <path d="M -5 -5 L 5 5 M 5 -5 L -5 5" />
                        </g>
                      ) : (
                        <path d={shapeOf(m.shape)(9)} fill={colourOf(m.shape)} stroke="var(--floor)" strokeWidth={1.4} className="land" />
                      )}
                      {m.kind === 'asked' ? <path d="M -12 -17 H 12" stroke="var(--ink)" strokeWidth={3} /> : null}
                    </g>
                  ))}
                  {r.shut ? <line x1={at(r.shut.at)} x2={at(r.shut.at)} y1={y - 16} y2={y + 16} stroke="var(--ink)" strokeWidth={4} /> : null}
                </g>
              )
            })}
            {lastCall < end ? (
              <g>
                <line x1={at(lastCall)} x2={at(lastCall)} y1={14} y2={foot} stroke="var(--doubt)" strokeWidth={2.4} strokeDasharray="6 6" />
                <text
                  x={at(lastCall) + (at(lastCall) > x0 + inner - 80 ? -7 : 7)}
                  y={24}
                  textAnchor={at(lastCall) > x0 + inner - 80 ? 'end' : 'start'}
                  className="big"
                  fontSize={15}
                  fill="var(--doubt)"
                >
                  last call
                </text>
              </g>
            ) : null}
            {lastIn !== null ? <path d={`M ${at(Math.min(lastIn, end))} ${foot} l -8 -13 h 16 z`} fill="var(--ink)" data-last-in /> : null}
            <line x1={at(now)} x2={at(now)} y1={14} y2={foot} stroke="var(--ink)" strokeWidth={2.6} />
            <rect x={at(now) - 32} y={0} width={64} height={26} fill="var(--ink)" />
            <text x={at(now)} y={19} textAnchor="middle" className="big" fontSize={17} fill="var(--floor)">
              {clock}
            </text>
            <Strip_ s={strip} x0={x0} width={inner} y={foot} height={56} unit="min" />
          </svg>
          {rows.map((r, i) => (
            <div key={r.key} className="absolute left-0" style={{ top: 26 + i * high, width: x0 - 12, height: high - 10 }} data-lane={r.key}>
              <p className="m-0 text-[0.95rem] font-semibold text-quiet">{r.over}</p>
              <p className={`big m-0 leading-none ${narrow ? 'text-[1.5rem]' : 'text-[2.3rem]'} ${r.quiet ? 'text-quiet' : ''}`} style={{ fontStretch: '68%' }}>
                {r.name}
              </p>
              <div className="mt-1 text-[1rem]">{r.below}</div>
            </div>
          ))}
          {rows.map((r, i) =>
            r.now || r.shut ? (
              <p
                key={r.key}
                className={`pointer-events-none absolute m-0 ${narrow ? 'max-w-[46%]' : 'whitespace-nowrap'} ${left ? 'text-right' : ''}`}
                style={{ top: 30 + i * high, ...(left ? { right: width - at(now) + 10 } : { left: at(now) + 10 }) }}
                data-now={r.key}
              >
                {r.shut ? (
                  <span className="bg-floor text-quiet">{r.shut.says}</span>
                ) : (
                  <>
                    <span className="big bg-floor text-[2.2rem] leading-none">{r.now?.big}</span> <span className="bg-floor text-quiet">{r.now?.small}</span>
                  </>
                )}
              </p>
            ) : null,
          )}
        </>
      ) : null}
    </div>
  )
}

/** Marks that would cover each other are lifted, so that each is seen. */
function dodged(marks: readonly TimeMark[], at: (v: number) => number): (TimeMark & { x: number; lift: number })[] {
  const ends: number[] = []
  return [...marks]
    .sort((a, b) => a.at - b.at)
    .map((m) => {
      const x = at(m.at)
      let lift = 0
      while (lift < 3 && x - (ends[lift] ?? -99) < 19) lift += 1
      ends[lift] = x
      return { ...m, x, lift }
    })
}
