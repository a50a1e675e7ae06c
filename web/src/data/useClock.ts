import { useEffect, useState } from 'react'
import { type Round, roundTrip } from './live'
import { useLiveState } from './liveState'

/** The server's clock beside this page's own (performance.now): ahead by so many seconds, known with this standard uncertainty in s. */
export type Clock = { ahead: number; doubt: number }
/** Round trips of which the best counts. */
const ROUNDS = 20

/** What the best of several round trips tells. The way there and the way back may differ by all of it: a rectangular distribution of half the
 *  trip to either side (JCGM 100:2008, 4.3.7). */
export function clockFrom(rounds: readonly Round[]): Clock | null {
  const best = rounds.reduce<Round | undefined>((a, b) => (a && a.back - a.sent <= b.back - b.sent ? a : b), undefined)
  return best ? { ahead: best.at - (best.sent + best.back) / 2000, doubt: (best.back - best.sent) / 2000 / Math.sqrt(3) } : null
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
