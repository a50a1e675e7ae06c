import { useLive } from '../data/live'

/** While this stands on a page, what others do to the study is told to it. */
export function Follow({ study }: { study: string }) {
  useLive(study)
  return null
}
