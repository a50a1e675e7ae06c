/** Which loud moment counts: pure, on the sound's own clock in seconds. */
export type Hearing = { state: 'quiet' } | { state: 'waiting'; from: number; heard: boolean } | { state: 'timed'; from: number; to: number; heard: boolean }

/** A thud rings on: what is loud within so many seconds of the last loud moment is the same thud. */
export const RINGS_S = 0.25
/** No trial falls shorter than this. */
const SHORTEST_S = 0.12

export class Thud {
  #now: Hearing = { state: 'quiet' }
  #lastLoud = Number.NEGATIVE_INFINITY
  #heard = 0

  get snapshot(): Hearing {
    return this.#now
  }
  /** How many thuds were heard so far. */
  get heard(): number {
    return this.#heard
  }
  /** Let go by a press, at a moment of the sound's clock. */
  release(at: number): void {
    if (this.#now.state === 'quiet') this.#now = { state: 'waiting', from: at, heard: false }
  }
  /** A loud moment. byEar: the release is heard as well. Tells whether it ended a time. */
  loud(at: number, byEar: boolean): boolean {
    const rings = at - this.#lastLoud < RINGS_S
    this.#lastLoud = at
    const now = this.#now
    if (rings) return false
    this.#heard += 1
    if (now.state === 'quiet' && byEar) this.#now = { state: 'waiting', from: at, heard: true }
    else if (now.state === 'waiting' && at - now.from >= SHORTEST_S) {
      this.#now = { state: 'timed', from: now.from, to: at, heard: now.heard }
      return true
    }
    return false
  }
  clear(): void {
    this.#now = { state: 'quiet' }
  }
}
