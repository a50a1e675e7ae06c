import { useEffect, useState } from 'react'
import { type Round, roundTrip } from './live'
import { useLiveState } from './liveState'

/** The server's clock beside this page's own (performance.now): ahead by so many seconds, found by a round trip of so many; how surely it is known by
 *  that, the core says (measuring/clocks.py). */
export type Clock = { ahead: number; trip: number }
/** Round trips of which the shortest counts. */
const ROUNDS = 20

export function clockFrom(rounds: readonly Round[]): Clock | null {
  const best = rounds.reduce<Round | undefined>((a, b) => (a && a.back - a.sent <= b.back - b.sent ? a : b), undefined)
  return best ? { ahead: best.at - (best.sent + best.back) / 2000, trip: Math.min(10, (best.back - best.sent) / 1000) } : null
}

async function compared(study: string): Promise<Clock | null> {
  const rounds: Round[] = []
  for (let n = 0; n < ROUNDS; n++) {
    const one = await roundTrip(study)
    if (one) rounds.push(one)
  }
  return clockFrom(rounds)
}

/** A clock drifts: it is compared anew so often while somebody times. */
const ANEW_MS = 120_000

/** The server's clock beside this page's, compared beforehand; null while it is not known. wanted: whether somebody times by it. */
export function useClock(study: string, wanted: boolean): Clock | null {
  const live = useLiveState(study)
  const [clock, set] = useState<Clock | null>(null)
  useEffect(() => {
    if (!wanted || live !== 'here') return
    let over = false
    const compare = () =>
      void compared(study).then((found) => {
        if (!over && found) set(found)
      })
    compare()
    const timer = setInterval(compare, ANEW_MS)
    return () => {
      over = true
      clearInterval(timer)
    }
  }, [study, wanted, live])
  return clock
}
