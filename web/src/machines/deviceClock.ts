import { local } from '../data/keep'

/** The device's clock beside the server's. Every answer of the server tells its time (to the second); between answers a clock that is put
 *  back is noticed against the browser's own monotonic one, which stops at most while the device sleeps. */
const KEY = 'clock'
/** Nearer than this the two are alike: the server tells whole seconds, and an answer takes a while. */
const ALIKE_MS = 3_000
/** No device sleeps so long in an open page between two trials; a clock that leaps further forward was set. */
const SLEPT_MS = 12 * 3_600_000

type Seen = { ahead: number; wall: number; steady: number }

export class DeviceClock {
  #seen: Seen | null
  #now: () => number
  #steady: () => number

  constructor(now: () => number = Date.now, steady: () => number = () => performance.now()) {
    this.#now = now
    this.#steady = steady
    const ahead = local.get(KEY)
    // what an earlier visit measured; whether the clock was set since is told by the next answer
    this.#seen = ahead === null ? null : { ahead: Number(ahead), wall: now(), steady: steady() }
  }

  /** The server's time came with an answer to what was asked `tookMs` ago. */
  heard(serverMs: number, tookMs: number): void {
    if (!Number.isFinite(serverMs)) return
    const wall = this.#now()
    const ahead = wall - tookMs / 2 - (serverMs + 500)
    const known = this.#seen === null ? null : this.aheadMs()
    const next = Math.abs(ahead) < ALIKE_MS ? 0 : known !== null && Math.abs(known - ahead) < ALIKE_MS ? known : ahead
    this.#seen = { ahead: next, wall, steady: this.#steady() }
    local.set(KEY, String(next))
  }

  /** By how much the device's clock is ahead of the server's, in milliseconds; null where no answer ever came. */
  aheadMs(): number | null {
    if (this.#seen === null) return null
    const leap = this.#now() - this.#seen.wall - (this.#steady() - this.#seen.steady)
    const set = leap < -ALIKE_MS || leap > SLEPT_MS
    return this.#seen.ahead + (set ? leap : 0)
  }

  /** The server's time now, as well as it is known. */
  serverNow(): number {
    return this.#now() - (this.aheadMs() ?? 0)
  }
}

export const deviceClock = new DeviceClock()

/** This device, and its trials one after the other: told with each, so that their order is not its clock's. Made by the device itself. */
export function nextOfTablet(): { tablet: string; tablet_number: number } {
  const id = local.get('tablet') ?? crypto.getRandomValues(new Uint32Array(4)).join('').slice(0, 24)
  const number = Number(local.get('tablet-number') ?? 0) + 1
  local.set('tablet', id)
  local.set('tablet-number', String(number))
  return { tablet: id, tablet_number: number }
}
