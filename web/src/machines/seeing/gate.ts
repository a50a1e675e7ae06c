import { at, type Grey, middle } from './grey'

/** A line laid over the picture, its ends in shares of its width and height (0 to 1). */
export type Line = { x0: number; y0: number; x1: number; y1: number }

/** What one picture shows at a line. signal: which share of the line is changed against the empty scene (0 to 1). */
export type Seen = { t: number; signal: number; front: Front | null }
/** Where a thing stands beside the line: from behind to its front end, in points across the line (0 on it), seen from the side from which it comes. */
type Front = { low: number; high: number; cutLow: boolean; cutHigh: boolean; parts: readonly (readonly [number, number])[]; even: boolean }

/** Something went through a line. t: when its front passed, in s of the pictures' clock; u: standard uncertainty in s; from: on which side it came in (−1 or 1);
 *  between: whether the moment lies between two pictures by where the front stood in them, or only in the gap between them. */
export type Crossing = { t: number; u: number; between: boolean; parts: number; even: boolean }

/** Something is in a line where so much of it is changed: a narrow payload in a long line is. */
export const COUNTS_FROM = 0.03
/** Points along a line that are looked at. */
const ROWS = 80
/** So far to either side of a line a thing is followed, as a share of the picture's longer side. */
const REACH = 0.24
/** Pictures from which the empty scene is learned. */
export const LEARNS = 8
/** A change of less than so many times the noise, or than so many steps of 256, is none. */
const NOISES = 5
const LEAST = 9
/** What is less than so many times the noise adds nothing to where a front lies. */
const IN_NOISE = 2.5
/** Where a front lies: this share of the thing's height is changed. It is the nose that is timed, whatever stands higher behind it. */
const NOSE = 0.13
const LEAST_ROWS = 1.2
/** Where so few rows are changed there is nothing: that keeps two things apart, a low part of one thing does not. */
const NOTHING_ROWS = 0.5
/** Pictures before a crossing in which the front is looked for, and after it. */
const BEFORE = 5
const AFTER = 2
/** A front is known to no less than so many points of the picture, nor a moment to less than this share of a gap between pictures. */
const LEAST_POINTS = 0.12
const LEAST_GAP = 0.03
/** Two ends of one thing are no further apart than so many points. */
const TOGETHER = 7
/** A piece whose both ends moved less than so many points in two pictures does not move: it is where something stood when the scene was learned. */
const STANDS = 1.5
/** A scene that is not even (share of its lightness) tells a shadow, which leaves its pattern, from a thing, which hides it. */
const PATTERN = 0.04

/** One line: what it looks like without anything, and what is seen in it now. Plain numbers in, plain numbers out. */
export class Gate {
  readonly line: Line
  #reach = 0
  #rows = 0
  #empty: Float32Array = new Float32Array(0)
  #first: Float32Array[] = []
  #noise = 2
  #now: Float32Array = new Float32Array(0)
  #last: Seen[] = []
  /** From which share of the line on something is in it. */
  threshold: number
  #above = false
  #waits: { at: number; left: number } | null = null

  constructor(line: Line, threshold = COUNTS_FROM) {
    this.line = line
    this.threshold = threshold
  }
  get learned(): boolean {
    return this.#empty.length > 0
  }
  /** The scene is learned anew, as after the tablet was moved. */
  forget(): void {
    this.#empty = new Float32Array(0)
    this.#first = []
    this.#last = []
    this.#above = false
    this.#waits = null
  }

  /** Look at the strip around the line in a picture. Gives the lightness of it, row by row along the line. */
  look(grey: Grey): Float32Array {
    const { wide, high } = grey
    const [x0, y0, x1, y1] = [this.line.x0 * (wide - 1), this.line.y0 * (high - 1), this.line.x1 * (wide - 1), this.line.y1 * (high - 1)]
    const long = Math.max(1, Math.hypot(x1 - x0, y1 - y0))
    const reach = Math.max(6, Math.round(Math.max(wide, high) * REACH))
    const rows = Math.max(4, Math.min(ROWS, Math.round(long)))
    const width = 2 * reach + 1
    if (this.#reach !== reach || this.#rows !== rows) {
      this.#reach = reach
      this.#rows = rows
      this.#now = new Float32Array(rows * width)
      this.forget()
    }
    const [nx, ny] = [(y1 - y0) / long, -(x1 - x0) / long]
    for (let r = 0; r < rows; r += 1) {
      const [cx, cy] = [x0 + ((x1 - x0) * (r + 0.5)) / rows, y0 + ((y1 - y0) * (r + 0.5)) / rows]
      for (let u = -reach; u <= reach; u += 1) {
        const [px, py] = [cx + nx * u, cy + ny * u]
        this.#now[r * width + u + reach] = px < 0 || py < 0 || px > wide - 1 || py > high - 1 ? Number.NaN : at(grey, px, py)
      }
    }
    return this.#now
  }

  /** By how much the light is brighter than in the empty scene, from every point of the strip; 1 while that is not learned. */
  gains(): number[] {
    if (!this.learned) return []
    const found: number[] = []
    for (let i = 0; i < this.#now.length; i += 7) {
      const was = this.#empty[i] ?? 0
      if (was > 20) found.push((this.#now[i] ?? 0) / was)
    }
    return found.filter((g) => Number.isFinite(g))
  }

  /** Take in a picture at a time in s, its light put right by gain. Gives the crossing that it settles, if any. */
  take(t: number, gain: number): Crossing | null {
    if (!this.learned) {
      this.#learn()
      this.#last.push({ t, signal: 0, front: null })
      return null
    }
    const seen = this.#seen(t, gain)
    this.#last.push(seen)
    if (this.#last.length > BEFORE + AFTER + 6) this.#last.shift()
    if (seen.signal < this.threshold / 3 && !seen.front) this.#follow(gain)
    let done: Crossing | null = null
    if (this.#waits) {
      this.#waits.left -= 1
      if (this.#waits.left <= 0) {
        done = this.#settle(this.#waits.at)
        this.#waits = null
      }
    }
    if (!this.#above && seen.signal >= this.threshold) {
      this.#above = true
      if (!this.#waits && this.#last.length > 1) this.#waits = { at: t, left: AFTER }
    } else if (this.#above && seen.signal < this.threshold / 2) this.#above = false
    return done
  }
  get seen(): Seen | undefined {
    return this.#last.at(-1)
  }

  #learn(): void {
    this.#first.push(this.#now.slice())
    if (this.#first.length < LEARNS) return
    const empty = new Float32Array(this.#now.length)
    const off: number[] = []
    for (let i = 0; i < empty.length; i += 1) {
      const here = this.#first.map((f) => f[i] ?? 0)
      empty[i] = here.some((v) => !Number.isFinite(v)) ? Number.NaN : middle(here)
      if (i % 5 === 0 && Number.isFinite(empty[i])) for (const f of this.#first) off.push(Math.abs((f[i] ?? 0) - (empty[i] ?? 0)))
    }
    this.#empty = empty
    this.#noise = Math.max(0.8, middle(off) / 0.6745)
    this.#first = []
  }
  /** What is empty now stays known as the light wanders. */
  #follow(gain: number): void {
    for (let i = 0; i < this.#empty.length; i += 1) {
      const now = (this.#now[i] ?? 0) / gain
      if (Number.isFinite(now)) this.#empty[i] = (this.#empty[i] ?? 0) * 0.96 + now * 0.04
    }
  }

  #seen(t: number, gain: number): Seen {
    const [rows, reach, width] = [this.#rows, this.#reach, 2 * this.#reach + 1]
    const least = Math.max(LEAST, NOISES * this.#noise)
    const change = new Float32Array(width) // of how many rows
    const near: number[] = []
    const size = new Float32Array(rows)
    let counted = 0
    for (let r = 0; r < rows; r += 1) {
      const over: number[] = []
      for (let u = 0; u < width; u += 1) {
        const i = r * width + u
        const off = Math.abs((this.#now[i] ?? 0) / gain - (this.#empty[i] ?? 0))
        if (off > least) over.push(off)
      }
      if (over.length >= 2) {
        counted += 1
        size[r] = middle(over)
      }
    }
    if (counted) {
      for (let r = 0; r < rows; r += 1) {
        const whole = size[r] ?? 0
        if (!whole) continue
        for (let u = 0; u < width; u += 1) {
          const i = r * width + u
          const off = Math.abs((this.#now[i] ?? 0) / gain - (this.#empty[i] ?? 0))
          // a change that is not the noise counts by how much of the whole it is, so that a front between two points is found between them
          const part = off > IN_NOISE * this.#noise ? Math.min(1, off / whole) : 0
          change[u] = (change[u] ?? 0) + part
        }
      }
    }
    for (const u of [-1, 0, 1]) near.push((change[reach + u] ?? 0) / rows)
    const signal = middle(near)
    const top = change.reduce((a, b) => Math.max(a, b), 0)
    if (top < Math.max(LEAST_ROWS, rows * Math.min(this.threshold / 2, 0.08))) return { t, signal, front: null }
    const cut = Math.min(top / 2, Math.max(LEAST_ROWS, top * NOSE))
    let low = -1
    let high = -1
    const parts: [number, number][] = []
    let gap = TOGETHER + 1
    for (let u = 0; u < width; u += 1) {
      // a single column of noise is no front: its neighbours must say the same
      const here = middle([change[u - 1] ?? 0, change[u] ?? 0, change[u + 1] ?? 0])
      if (here >= cut) {
        if (low < 0) low = u
        high = u
      }
      if (here >= NOTHING_ROWS) {
        const last = parts.at(-1)
        if (gap > TOGETHER || !last) parts.push([u, u])
        else last[1] = u
        gap = 0
      } else gap += 1
    }
    if (low < 0) return { t, signal, front: null }
    const between = (a: number, b: number): number => {
      const [va, vb] = [change[a] ?? 0, change[b] ?? 0]
      return va === vb ? a : a + ((cut - va) / (vb - va)) * (b - a)
    }
    return {
      t,
      signal,
      front: {
        low: (low > 0 ? between(low - 1, low) : low) - reach,
        high: (high < width - 1 ? between(high, high + 1) : high) - reach,
        cutLow: this.#ends(low, -1),
        cutHigh: this.#ends(high, 1),
        parts,
        even: this.#evenly(gain, least, low, high),
      },
    }
  }
  /** Whether the picture ends, or the strip, where a thing does. */
  #ends(u: number, way: -1 | 1): boolean {
    const width = 2 * this.#reach + 1
    const next = u + way * 2
    return next < 0 || next >= width || !Number.isFinite(this.#empty[Math.floor(this.#rows / 2) * width + next] ?? Number.NaN)
  }
  /** Whether all that changed became darker by one share and kept its pattern, as under a shadow. */
  #evenly(gain: number, least: number, low: number, high: number): boolean {
    const width = 2 * this.#reach + 1
    const shares: number[] = []
    const were: number[] = []
    for (let r = 0; r < this.#rows; r += 1)
      for (let u = low + 2; u <= high - 2; u += 2) {
        const i = r * width + u
        const [was, now] = [this.#empty[i] ?? 0, (this.#now[i] ?? 0) / gain]
        if (Math.abs(now - was) > least && was > 20) {
          shares.push(now / was)
          were.push(was)
        }
      }
    if (shares.length < 12) return false
    const share = spread(shares)
    return share.mean < 0.93 && share.mean > 0.3 && share.sd / share.mean < 0.06 && spread(were).sd / spread(were).mean > PATTERN
  }

  /** How many pieces moved while the line was crossed. */
  #moving(n: number): number {
    const [before, now] = [this.#last[n - 2]?.front?.parts ?? [], this.#last[n]?.front?.parts ?? []]
    return now.filter(([low, high]) => !before.some((p) => Math.abs(p[0] - low) < STANDS && Math.abs(p[1] - high) < STANDS)).length
  }

  /** When the front passed the line: where it stood in the pictures around the moment, laid through by a line or a curve. */
  #settle(over: number): Crossing {
    const n = this.#last.findIndex((s) => s.t === over)
    const [a, b] = [this.#last[n - 1], this.#last[n]]
    const gap = a && b ? b.t - a.t : 0
    const parts = this.#moving(n)
    const even = this.#last.slice(n, n + 2).some((s) => s.front?.even ?? false)
    const plain: Crossing = { t: ((a?.t ?? over) + over) / 2, u: gap / Math.sqrt(12), between: false, parts, even }
    const around = this.#last.slice(Math.max(0, n - BEFORE), n + AFTER + 1)
    const side = cameFrom(around)
    if (!side) return plain
    const stood = around.flatMap((s) => {
      const f = s.front
      if (!f) return []
      const cut = side < 0 ? f.cutHigh : f.cutLow
      return cut ? [] : [{ t: s.t, e: side < 0 ? f.high : -f.low }]
    })
    // as it goes through: from the last that stands before the line, backwards while it is nearer and nearer, and forwards
    const first = stood.findIndex((p) => p.e >= 0)
    if (first < 1) return plain
    const path = [...stood.slice(Math.max(0, first - 3), first), ...stood.slice(first, first + 2)].filter(
      (p, i, all) => i === 0 || p.e > (all[i - 1]?.e ?? -1e9),
    )
    const [last, next] = [path.findLast((p) => p.e < 0), path.find((p) => p.e >= 0)]
    if (!last || !next || next.t - last.t > gap * 2.5 + 1e-6) return plain
    const speed = (next.e - last.e) / (next.t - last.t)
    const found = path.length >= 4 ? curved(path, last.t, next.t) : { t: last.t - last.e / speed, off: 0 }
    const u = Math.hypot(Math.max(found.off, LEAST_POINTS * (path.length < 4 ? 3 : 1)) / speed, LEAST_GAP * gap)
    return { t: found.t, u: Math.min(u, gap / Math.sqrt(12) + LEAST_GAP * gap), between: true, parts, even }
  }
}

const spread = (v: readonly number[]): { mean: number; sd: number } => {
  const mean = v.reduce((a, b) => a + b, 0) / v.length
  return { mean, sd: Math.sqrt(v.reduce((a, b) => a + (b - mean) ** 2, 0) / v.length) }
}

/** From which side a thing comes: where the middle of it was, and where it goes. 0 where that cannot be told. */
function cameFrom(seen: readonly Seen[]): -1 | 0 | 1 {
  const fronts = seen.flatMap((s) => (s.front ? [s.front] : []))
  const [a, b] = [fronts[0], fronts.at(-1)]
  if (!a || !b || a === b) return 0
  // the end that moved is the front; one that stays at the picture's end does not move
  const [low, high] = [b.low - a.low, b.high - a.high]
  const moved = (a.cutLow && b.cutLow ? 0 : low) + (a.cutHigh && b.cutHigh ? 0 : high)
  return moved > 0.5 ? -1 : moved < -0.5 ? 1 : 0
}

/** Where a curve through the points (a parabola by least squares) is 0 between two of them; off: how far the points lie from it, in points of the picture. */
function curved(path: readonly { t: number; e: number }[], from: number, to: number): { t: number; off: number } {
  const t0 = (from + to) / 2
  const scale = to - from || 1
  const degree = path.length >= 5 ? 2 : 1
  const x = path.map((p) => (p.t - t0) / scale)
  const c = leastSquares(
    x,
    path.map((p) => p.e),
    degree,
  )
  const value = (z: number) => c.reduceRight((sum, k) => sum * z + k, 0)
  let [low, high] = [-0.5, 0.5]
  if (value(low) > 0 || value(high) < 0) [low, high] = [-1.5, 1.5]
  for (let i = 0; i < 40; i += 1) {
    const mid = (low + high) / 2
    if (value(mid) < 0) low = mid
    else high = mid
  }
  const off = Math.sqrt(path.reduce((sum, p, i) => sum + (p.e - value(x[i] ?? 0)) ** 2, 0) / Math.max(1, path.length - degree - 1))
  return { t: t0 + ((low + high) / 2) * scale, off }
}

/** The polynomial through points by least squares, lowest power first (normal equations; of degree 1 or 2 they are small and sure). */
export function leastSquares(x: readonly number[], y: readonly number[], degree: number): number[] {
  const n = degree + 1
  const rows = Array.from({ length: n }, (_, i) => [
    ...Array.from({ length: n }, (__, j) => x.reduce((sum, v) => sum + v ** (i + j), 0)),
    x.reduce((sum, v, k) => sum + v ** i * (y[k] ?? 0), 0),
  ])
  for (let i = 0; i < n; i += 1) {
    const pivot = rows.slice(i).reduce((best, r, k) => (Math.abs(r[i] ?? 0) > Math.abs(rows[best]?.[i] ?? 0) ? i + k : best), i)
    const [a, b] = [rows[i], rows[pivot]]
    if (!a || !b) return []
    rows[i] = b
    rows[pivot] = a
    for (let k = 0; k < n; k += 1) {
      if (k === i) continue
      const f = (rows[k]?.[i] ?? 0) / (b[i] || 1e-12)
      rows[k] = (rows[k] ?? []).map((v, j) => v - f * (b[j] ?? 0))
    }
  }
  return rows.map((r, i) => (r[n] ?? 0) / (r[i] || 1e-12))
}
