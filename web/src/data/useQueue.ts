import { useSyncExternalStore } from 'react'
import { queue } from '../machines/saveQueue'

/** What waits in this browser to be sent. */
export const useQueue = () => useSyncExternalStore(queue.subscribe, () => queue.snapshot)
