/** A heat on the events' own time stamps: one release, and a landing for each lane. Pressing a lane that is down, or before the release,
 *  changes nothing; `back` takes the last landing away while the others still fall. */
export type HeatNow = { state: 'ready' } | { state: 'falling' | 'down'; from: number; landed: Readonly<Record<number, number>> }

/** A finger that bounces lands nothing. */
const BOUNCE_MS = 60

export class Heat {
  #now: HeatNow = { state: 'ready' }
  #heard = new Set<() => void>()

  subscribe = (hear: () => void): (() => void) => {
    this.#heard.add(hear)
    return () => this.#heard.delete(hear)
  }
  get snapshot(): HeatNow {
    return this.#now
  }

  /** at: event.timeStamp in ms. */
  release(at: number): void {
    if (this.#now.state === 'ready') this.#set({ state: 'falling', from: at, landed: {} })
  }

  /** A lane is down at `at`; lanes: all that were let go. */
  land(lane: number, at: number, lanes: readonly number[]): void {
    const now = this.#now
    if (now.state !== 'falling' || !lanes.includes(lane) || now.landed[lane] !== undefined || at - now.from < BOUNCE_MS) return
    const landed = { ...now.landed, [lane]: at - now.from }
    this.#set({ state: lanes.every((l) => landed[l] !== undefined) ? 'down' : 'falling', from: now.from, landed })
  }

  /** The last landing was another lane's, or none: it falls again. */
  back(): void {
    const now = this.#now
    if (now.state === 'ready') return
    const last = Object.entries(now.landed).sort((a, b) => b[1] - a[1])[0]
    if (!last) this.clear()
    else this.#set({ state: 'falling', from: now.from, landed: Object.fromEntries(Object.entries(now.landed).filter(([l]) => l !== last[0])) })
  }

  /** Go on with a heat that fell before; landed: by lane, since the release. */
  resume(from: number, landed: Readonly<Record<number, number>>): void {
    if (this.#now.state === 'ready') this.#set({ state: 'falling', from, landed })
  }

  clear(): void {
    if (this.#now.state !== 'ready') this.#set({ state: 'ready' })
  }

  #set(now: HeatNow): void {
    this.#now = now
    for (const hear of this.#heard) hear()
  }
}

/** Places by order of landing: 1 for the first; times that read the same share a place, written "2=". ms: by lane. */
export function placesOf(landed: Readonly<Record<number, number>>): Record<number, string> {
  const read = (ms: number) => Math.round(ms / 10) // to the hundredth that is written down
  const times = Object.values(landed).map(read)
  return Object.fromEntries(
    Object.entries(landed).map(([lane, at]) => {
      const ms = read(at)
      const before = times.filter((t) => t < ms).length
      return [lane, `${before + 1}${times.filter((t) => t === ms).length > 1 ? '=' : ''}`]
    }),
  )
}
