import { useEffect, useRef } from 'react'
import { api, ask, Refusal } from './api'
import { sayLeaving } from './live'
import { useLiveState } from './liveState'
import { client } from './queries'
import type { components } from './schema'
import { screenId, screensKey } from './screens'

export type Here = Required<Omit<components['schemas']['ScreenBody'], 'fall' | 'released_at' | 'round_trip_s'>> &
  Pick<components['schemas']['ScreenBody'], 'fall' | 'released_at' | 'round_trip_s'>

/** What is only half typed is told a moment later; everything else at once; what could not be told, again after a while. */
const HALF_MS = 600
const AGAIN_MS = 2_000

/** Tells the others what this screen does: the newest only, one at a time. */
class Teller {
  #want: Here | null = null
  #sent = ''
  #firm = ''
  #busy = false
  #timer: ReturnType<typeof setTimeout> | undefined
  #over = false

  constructor(readonly study: string) {}

  say(here: Here): void {
    this.#want = here
    const firm = JSON.stringify({ ...here, half: {} })
    if (JSON.stringify(here) !== this.#sent) this.#soon(firm === this.#firm ? HALF_MS : 0)
  }

  /** The stream is back: whoever took it for gone is told anew. */
  again(): void {
    this.#sent = ''
    if (this.#want) this.#soon(0)
  }

  leave(): void {
    this.stop()
    const path = { study_id: this.study, screen_id: screenId }
    ask(api.DELETE('/api/studies/{study_id}/screens/{screen_id}', { params: { path } })).catch(() => undefined) // away by itself a moment later
  }

  stop(): void {
    this.#over = true
    clearTimeout(this.#timer)
  }

  #soon(ms: number): void {
    clearTimeout(this.#timer)
    this.#timer = setTimeout(() => void this.#tell(), ms)
  }

  async #tell(): Promise<void> {
    const body = this.#want
    if (this.#busy || this.#over || !body) return
    this.#busy = true
    const text = JSON.stringify(body)
    let wait = 0
    try {
      const path = { study_id: this.study, screen_id: screenId }
      const told = await ask(api.PUT('/api/studies/{study_id}/screens/{screen_id}', { params: { path }, body }))
      this.#sent = text
      this.#firm = JSON.stringify({ ...body, half: {} })
      if (!this.#over) client.setQueryData(screensKey(this.study), told)
    } catch (why) {
      if (!(why instanceof Refusal)) throw why
      if (why.away) wait = why.wait ?? AGAIN_MS
      else this.#sent = text // it may not: said again it would be the same
    } finally {
      this.#busy = false
      if (!this.#over && JSON.stringify(this.#want) !== this.#sent) this.#soon(wait)
    }
  }
}

/** Tell the others what this screen does, as it changes; and that it is left. The answer tells what they do. */
export function useHere(study: string, here: Here): void {
  const live = useLiveState(study)
  const teller = useRef<Teller>(null)
  useEffect(() => {
    const made = new Teller(study)
    teller.current = made
    // by an address typed, or a tab that is closed; a page that is loaded anew comes back at once
    const left = () => {
      made.stop()
      sayLeaving(study)
    }
    window.addEventListener('pagehide', left)
    return () => {
      window.removeEventListener('pagehide', left)
      made.leave()
    }
  }, [study])
  const text = JSON.stringify(here)
  useEffect(() => teller.current?.say(JSON.parse(text) as Here), [text])
  const was = useRef(live)
  useEffect(() => {
    if (live === 'here' && was.current === 'away') teller.current?.again()
    was.current = live
  }, [live])
}
