/** A stopwatch on the events' own time stamps (a monotonic clock). Pressing an ended watch does nothing until it is cleared. */
export type Watch = { state: 'ready' } | { state: 'running'; from: number } | { state: 'ended'; ms: number }

export class Stopwatch {
  #watch: Watch = { state: 'ready' }
  #heard = new Set<() => void>()

  subscribe = (hear: () => void): (() => void) => {
    this.#heard.add(hear)
    return () => this.#heard.delete(hear)
  }
  get snapshot(): Watch {
    return this.#watch
  }
  /** Release or land. `at`: event.timeStamp in ms. Returns the text of the time when it ended. */
  press(at: number): string | null {
    if (this.#watch.state === 'ready') this.#set({ state: 'running', from: at })
    else if (this.#watch.state === 'running') {
      // The key that started it may repeat; a fall shorter than this is a bounce of the finger.
      if (at - this.#watch.from < 60) return null
      const ms = at - this.#watch.from
      this.#set({ state: 'ended', ms })
      return inSeconds(ms)
    }
    return null
  }
  /** Go on with a time that ran before. */
  resume(from: number): void {
    if (this.#watch.state === 'ready') this.#set({ state: 'running', from })
  }
  clear(): void {
    if (this.#watch.state !== 'ready') this.#set({ state: 'ready' })
  }
  #set(watch: Watch): void {
    this.#watch = watch
    for (const hear of this.#heard) hear()
  }
}

/** Milliseconds as a reading in seconds to 0.01 s, the step that a thumb can claim. */
export const inSeconds = (ms: number): string => (ms / 1000).toFixed(2)
