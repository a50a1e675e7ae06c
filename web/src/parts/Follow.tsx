import { useLive } from '../data/live'
import { useLiveState } from '../data/liveState'

/** While this stands on a page, what others do to the study is told to it. */
export function Follow({ study }: { study: string }) {
  useLive(study)
  return useLiveState(study) === 'never' ? (
    <p className="no-print m-0 bg-tape px-4 py-1 text-tape-ink md:px-8" role="status" data-asking>
      Something between this screen and Bendro lets no stream through: it asks every few seconds instead.
    </p>
  ) : null
}
