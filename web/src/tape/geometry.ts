import { linear } from './scale'

export type MarkKind = 'exact' | 'at_least' | 'at_most' | 'estimate' | 'void' | 'likely'
export type TapeMark = { id: string; value: number; kind: MarkKind; fresh?: boolean; resolution?: number | undefined }
export type PlacedMark = TapeMark & { x: number; lift: number }
export type Strip = { from: number; to: number; broken: boolean; x: (v: number) => number; major: number[]; minor: number[]; label: (v: number) => string }

const STEPS_SHOWN = 10

/** The stretch of tape that shows all values. It starts at the start line (0) unless that would squeeze the marks into the
 *  last third; then it is broken and drawn so. step: the tool's; no tick is finer, and the stretch holds at least ten steps, so
 *  that a difference of one or two does not look like much. */
export function strip(values: readonly number[], width: number, wanted = 8, step = 0): Strip {
  const room = values.length ? Math.max(0, STEPS_SHOWN * step - (Math.max(...values) - Math.min(...values))) / 2 : 0
  const low = Math.min(...values) >= 0 ? Math.max(0, Math.min(...values) - room) : Math.min(...values) - room
  const high = Math.max(...values) + room
  const empty = values.length === 0
  const span = empty ? 1 : high - low || Math.abs(high) * 0.2 || 1
  const broken = !empty && low > 0 && low - span * 0.6 > high * 0.38
  const from = empty ? 0 : low >= 0 && !broken ? 0 : low - span * 0.25
  const to = empty ? 1 : Math.max(high + span * 0.12, from + 1e-9)
  const scale = linear(from, to, 0, width)
  const honest = (count: number): number[] => {
    let ticks = scale.ticks(count)
    for (let n = count; n > 1 && ticks.length > 1 && (ticks[1] ?? 0) - (ticks[0] ?? 0) < step * 0.999; ticks = scale.ticks(n)) n = Math.floor(n / 2)
    return ticks
  }
  const major = honest(Math.max(2, Math.min(wanted, Math.floor(width / 70))))
  const apart = (major[1] ?? 1) - (major[0] ?? 0)
  const minor = honest(Math.min(major.length * 10, Math.floor(width / 7))).filter((v) => !major.some((m) => Math.abs(m - v) < apart / 100))
  const places = Math.max(0, -Math.floor(Math.log10(apart || 1) + 1e-9))
  return { from, to, broken, x: scale, major, minor, label: (v) => v.toFixed(places).replace('-', '−') }
}

/** Marks at their place along the tape; those that would cover each other are lifted, row by row, so that each is seen. */
export function place(marks: readonly TapeMark[], x: (v: number) => number, size: number): PlacedMark[] {
  const ends: number[] = [] // how far each row is taken: marks come from the left, so the last of a row is all that matters
  let before = { x: Number.NaN, lift: -1 }
  return [...marks]
    .sort((a, b) => a.value - b.value)
    .map((m) => {
      const at = x(m.value)
      let lift = at === before.x ? before.lift + 1 : 0 // at the very same place every row up to that one is taken
      while (lift < ends.length && at - (ends[lift] ?? 0) < size * 0.92) lift += 1
      ends[lift] = at
      before = { x: at, lift }
      return { ...m, x: at, lift }
    })
}

/** A name in at most so many lines of at most so many letters, broken between words where it can be; what is left over is an ellipsis. */
export function inLines(label: string, letters: number, most: number): string[] {
  const rows: string[] = []
  for (const word of label.split(' ')) {
    const last = rows.at(-1)
    if (last !== undefined && last.length + 1 + word.length <= letters) rows[rows.length - 1] = `${last} ${word}`
    else rows.push(word)
  }
  const kept = rows.slice(0, most).map((row) => (row.length > letters ? `${row.slice(0, letters - 1)}…` : row))
  const end = kept.at(-1) ?? ''
  if (rows.length > most) kept[most - 1] = end.endsWith('…') ? end : `${end.slice(0, letters - 1).trimEnd()}…`
  return kept
}

/** Outlines of the level shapes around (0, 0) for a radius r; told apart by shape first, colour second. */
export const SHAPES: readonly ((r: number) => string)[] = [
  (r) => `M ${-r} 0 a ${r} ${r} 0 1 0 ${2 * r} 0 a ${r} ${r} 0 1 0 ${-2 * r} 0 Z`,
  (r) => box(r * 0.88),
  (r) => polygon(3, r * 1.18, -90, r * 0.2),
  (r) => polygon(4, r * 1.2, -90),
  (r) => polygon(3, r * 1.18, 90, -r * 0.2),
  (r) => polygon(6, r * 1.05, 0),
  (r) => star(r * 1.25),
  (r) => cross(r),
]
const box = (s: number) => `M ${-s} ${-s} H ${s} V ${s} H ${-s} Z`
const cross = (r: number) => {
  const a = r * 0.38
  return `M ${-a} ${-r} H ${a} V ${-a} H ${r} V ${a} H ${a} V ${r} H ${-a} V ${a} H ${-r} V ${-a} H ${-a} Z`
}
const points = (n: number, at: (i: number) => [number, number]) =>
  `M ${Array.from({ length: n }, (_, i) =>
    at(i)
      .map((v) => v.toFixed(2))
      .join(' '),
  ).join(' L ')} Z`
const polygon = (n: number, r: number, turn: number, down = 0) =>
  points(n, (i) => [r * Math.cos(((turn + (360 / n) * i) * Math.PI) / 180), down + r * Math.sin(((turn + (360 / n) * i) * Math.PI) / 180)])
const star = (r: number) =>
  points(10, (i) => {
    const q = i % 2 ? r * 0.45 : r
    return [q * Math.cos(((-90 + 36 * i) * Math.PI) / 180), q * Math.sin(((-90 + 36 * i) * Math.PI) / 180)]
  })
export const shapeOf = (level: number) => SHAPES[level % SHAPES.length] as (r: number) => string
export const colourOf = (level: number) => `var(--l${level % 8})`
