import { ticks } from 'd3-array'

/** Where a value lies when the stretch `from` to `to` is laid over `start` to `end`, and round values within it to write beside it. Values
 *  outside the stretch go on along the same line. */
export type Scale = { (value: number): number; ticks: (count: number) => number[] }

export function linear(from: number, to: number, start: number, end: number): Scale {
  const per = (end - start) / (to - from || 1)
  return Object.assign((value: number) => start + (value - from) * per, { ticks: (count: number) => ticks(from, to, count) })
}
