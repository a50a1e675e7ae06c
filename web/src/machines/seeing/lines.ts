import { COUNTS_FROM, type Line } from './gate'
import type { Laid, Role } from './watch'

/** The tape in the picture: two places in shares of its width and height, and what it shows there, as typed. */
export type LaidTape = { a: { x: number; y: number; says: string }; b: { x: number; y: number; says: string } }
/** How a camera stands at a lane: its lines, the tape, and from which share of a line on something is in it. press: the start is pressed, not seen. */
export type Setting = { lines: Laid[]; tape: LaidTape | null; threshold: number; press: boolean }

const upright = (x: number, from = 0.06, to = 0.94): Line => ({ x0: x, y0: from, x1: x, y1: to })
const level = (y: number, from: number, to: number): Line => ({ x0: from, y0: y, x1: to, y1: y })

/** How the lines lie at first: two gates across the way (level ones for what falls), or for a heat a start over all lanes and an end for each. */
export function firstLines(lanes: readonly number[], falls: boolean): Setting {
  const ends = lanes.length
  const lines: Laid[] =
    ends < 2
      ? [
          { role: { start: true }, line: falls ? level(0.3, 0.2, 0.8) : upright(0.3) },
          { role: { start: false, lane: lanes[0] ?? 0 }, line: falls ? level(0.8, 0.2, 0.8) : upright(0.7) },
        ]
      : [
          { role: { start: true }, line: level(0.24, 0.06, 0.94) },
          ...lanes.map(
            (lane, n): Laid => ({ role: { start: false, lane }, line: level(0.8, 0.06 + (0.88 * n) / ends + 0.01, 0.06 + (0.88 * (n + 1)) / ends - 0.01) }),
          ),
        ]
  return { lines, tape: null, threshold: COUNTS_FROM, press: false }
}

/** What was kept of an earlier lesson, where it still fits these lanes. */
export function settingFrom(text: string, lanes: readonly number[], falls: boolean): Setting {
  try {
    const found = JSON.parse(text) as Setting
    const ends = found.lines.filter((l) => !l.role.start).map((l) => (l.role.start ? 0 : l.role.lane))
    if (ends.join() === (lanes.length ? lanes : [0]).join()) return found
  } catch {
    // never laid, or by an earlier version of the program: as at first
  }
  return firstLines(lanes, falls)
}

/** The tape with one of its two places touched; what it shows there stays as it was typed. */
export function touched(tape: LaidTape | null, which: 'a' | 'b', at: { x: number; y: number }): LaidTape {
  const had = tape ?? { a: { ...at, says: '' }, b: { ...at, says: '' } }
  return { ...had, [which]: { ...at, says: had[which].says || (which === 'a' ? '0' : '1') } }
}

/** A time and what holds 95 of 100 beside it, with its unit, as it is written where the core cannot be asked: u, its standard uncertainty. Both in s. */
export const plainTime = (took: number, u: number): string => `${took.toFixed(3)} ± ${(2 * u).toFixed(3)} s`

export const middleOf = (line: Line): { x: number; y: number } => ({ x: (line.x0 + line.x1) / 2, y: (line.y0 + line.y1) / 2 })

/** A line moved by a share of the picture, or one of its ends; it stays inside. */
export function moved(line: Line, part: 'whole' | 'first' | 'last', dx: number, dy: number): Line {
  const inside = (v: number) => Math.min(1, Math.max(0, v))
  if (part === 'first') return { ...line, x0: inside(line.x0 + dx), y0: inside(line.y0 + dy) }
  if (part === 'last') return { ...line, x1: inside(line.x1 + dx), y1: inside(line.y1 + dy) }
  const [mx, my] = [
    Math.min(1 - Math.max(line.x0, line.x1), Math.max(-Math.min(line.x0, line.x1), dx)),
    Math.min(1 - Math.max(line.y0, line.y1), Math.max(-Math.min(line.y0, line.y1), dy)),
  ]
  return { x0: line.x0 + mx, y0: line.y0 + my, x1: line.x1 + mx, y1: line.y1 + my }
}

export const roleSaid = (role: Role, many: boolean): string => (role.start ? 'start gate' : many ? `lane ${role.lane}` : 'end gate')
