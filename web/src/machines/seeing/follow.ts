import { at, type Grey } from './grey'

/** Where the thing was found in a picture, in points; score: how like it is to what was touched, from −1 to 1. */
export type Found = { x: number; y: number; score: number; lost: boolean }

/** Less like than this is something else: the thing is lost and has to be touched again. */
const LOST = 0.55
/** Below this the thing has turned or come nearer: how it looks is learned on. */
const CHANGED = 0.85
/** Of a picture's width, how far a thing is looked for around where it should be. */
const LEAST_SEARCH = 0.035
const MOST_SEARCH = 0.16

/** One thing, touched once and found in picture after picture: the place whose likeness (normalised cross-correlation of the lightness) to what
 *  was touched is greatest within a window around where it is going, between points by a parabola (common practice). */
export class Follower {
  #patch: Float32Array
  #half: number
  #x: number
  #y: number
  #vx = 0
  #vy = 0
  #known = 0

  /** size: how wide the thing is, in points. */
  constructor(grey: Grey, x: number, y: number, size: number) {
    this.#half = Math.max(3, Math.min(20, Math.round(size / 2)))
    this.#x = x
    this.#y = y
    this.#patch = this.#cut(grey, x, y)
  }

  step(grey: Grey): Found {
    const [px, py] = [this.#x + this.#vx, this.#y + this.#vy]
    const going = Math.hypot(this.#vx, this.#vy)
    // until two places are known, it may go anywhere
    const share = this.#known < 2 ? MOST_SEARCH : Math.min(MOST_SEARCH, LEAST_SEARCH + (0.5 * going) / grey.wide)
    const reach = Math.max(6, Math.round(share * grey.wide))
    const step = Math.max(1, Math.floor(this.#half / 4))
    let best = { x: px, y: py, score: -2 }
    for (let dy = -reach; dy <= reach; dy += step)
      for (let dx = -reach; dx <= reach; dx += step) {
        const score = this.#like(grey, Math.round(px) + dx, Math.round(py) + dy, step)
        if (score > best.score) best = { x: Math.round(px) + dx, y: Math.round(py) + dy, score }
      }
    for (let around = step; around >= 1; around = Math.floor(around / 2)) {
      const centre = best
      for (let dy = -around; dy <= around; dy += around)
        for (let dx = -around; dx <= around; dx += around) {
          const score = this.#like(grey, centre.x + dx, centre.y + dy, 1)
          if (score > best.score || (dx === 0 && dy === 0 && centre === best)) best = { x: centre.x + dx, y: centre.y + dy, score }
        }
    }
    const like = (dx: number, dy: number) => this.#like(grey, best.x + dx, best.y + dy, 1)
    const found = { x: best.x + peak(like(-1, 0), best.score, like(1, 0)), y: best.y + peak(like(0, -1), best.score, like(0, 1)), score: best.score }
    const outside = found.x < -2 || found.y < -2 || found.x > grey.wide + 1 || found.y > grey.high + 1
    if (found.score < LOST || outside) {
      this.#known = 0
      return { ...found, lost: true }
    }
    const weight = this.#known > 0 ? 0.75 : 1
    this.#vx = this.#vx * (1 - weight) + (found.x - this.#x) * weight
    this.#vy = this.#vy * (1 - weight) + (found.y - this.#y) * weight
    this.#x = found.x
    this.#y = found.y
    this.#known += 1
    if (found.score < CHANGED) {
      const now = this.#cut(grey, found.x, found.y)
      this.#patch = this.#patch.map((v, i) => v * 0.8 + (now[i] ?? 0) * 0.2)
    }
    return { ...found, lost: false }
  }

  #cut(grey: Grey, x: number, y: number): Float32Array {
    const n = 2 * this.#half + 1
    const made = new Float32Array(n * n)
    for (let r = 0; r < n; r += 1) for (let c = 0; c < n; c += 1) made[r * n + c] = at(grey, x + c - this.#half, y + r - this.#half)
    return made
  }

  #like(grey: Grey, x: number, y: number, every: number): number {
    const n = 2 * this.#half + 1
    const { wide, high, values } = grey
    const [left, top] = [x - this.#half, y - this.#half]
    let [s1, s2, s11, s22, s12, count] = [0, 0, 0, 0, 0, 0]
    for (let r = 0; r < n; r += every) {
      const py = Math.min(high - 1, Math.max(0, top + r))
      for (let c = 0; c < n; c += every) {
        const px = Math.min(wide - 1, Math.max(0, left + c))
        const a = this.#patch[r * n + c] ?? 0
        const b = values[py * wide + px] ?? 0
        s1 += a
        s2 += b
        s11 += a * a
        s22 += b * b
        s12 += a * b
        count += 1
      }
    }
    const spread = (s11 - (s1 * s1) / count) * (s22 - (s2 * s2) / count)
    return spread > 1e-6 ? (s12 - (s1 * s2) / count) / Math.sqrt(spread) : 0
  }
}

/** Where the top of a parabola through three neighbours lies, within half a step of the middle one. */
const peak = (before: number, here: number, after: number): number => {
  const bend = before - 2 * here + after
  return bend < -1e-9 ? Math.max(-0.5, Math.min(0.5, (0.5 * (before - after)) / bend)) : 0
}
