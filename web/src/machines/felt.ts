/** A log of what a phone's sensor tells, the newest seconds of it: plain numbers, no page. */
export type FeltLog = { t: number[]; a: number[] }
/** So much of it is kept: a drop with what comes before and after it. */
export const KEPT_S = 20
/** A blow beyond so many m/s² is taken for a landing, and so long after it the log is whole. */
const BLOW = 19.6
const AFTER_S = 1.5

export class Feeling {
  #t: number[] = []
  #a: number[] = []
  #blow: number | null = null
  #light = false

  /** One value: at a time in s, how much was felt in the three directions, weight included, in m/s². */
  take(t: number, x: number, y: number, z: number): void {
    const last = this.#t.at(-1)
    if (last !== undefined && t <= last) return
    const a = Math.hypot(x, y, z)
    this.#t.push(t)
    this.#a.push(a)
    while ((this.#t[0] ?? t) < t - KEPT_S) {
      this.#t.shift()
      this.#a.shift()
    }
    if (a < 4) this.#light = true
    if (this.#light && a > BLOW && this.#blow === null) this.#blow = t
  }
  /** How often a second it tells, from all that is kept; 0 before that is known. */
  get rate(): number {
    const [first, last] = [this.#t[0], this.#t.at(-1)]
    return first === undefined || last === undefined || last <= first ? 0 : (this.#t.length - 1) / (last - first)
  }
  /** Whether a fall has ended with a blow, and what came after it is in the log as well. */
  get landed(): boolean {
    return this.#blow !== null && (this.#t.at(-1) ?? 0) - this.#blow > AFTER_S
  }
  get log(): FeltLog {
    return { t: this.#t.map((t) => Number(t.toFixed(4))), a: this.#a.map((a) => Number(a.toFixed(3))) }
  }
  clear(): void {
    this.#t = []
    this.#a = []
    this.#blow = null
    this.#light = false
  }
}
