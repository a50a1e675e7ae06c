import { useSyncExternalStore } from 'react'

/** Of one study. off: no screen of it is open. here: what others do is told at once. away: the connection was lost, and comes back by itself.
 *  never: what lies between lets no such connection through. */
export type Live = 'off' | 'opening' | 'here' | 'away' | 'never'

const states = new Map<string, Live>()
const heard = new Set<() => void>()

export const liveState = (study: string): Live => states.get(study) ?? 'off'

export function setLive(study: string, state: Live): void {
  if (liveState(study) === state) return
  if (state === 'off') states.delete(study)
  else states.set(study, state)
  for (const hear of heard) hear()
}

const subscribe = (hear: () => void) => {
  heard.add(hear)
  return () => void heard.delete(hear)
}

export const useLiveState = (study: string): Live => useSyncExternalStore(subscribe, () => liveState(study))
