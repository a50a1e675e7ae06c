import { Suspense } from 'react'
import { Link } from 'react-router'
import type { Study } from '../../data/api'
import { soon } from '../../parts/soon'
import type { Open } from './LaneButtons'

const Ways = soon(async () => ({ default: (await import('./Ways')).Ways }))

/** What is needed now and then at a lane. skips: whether the turn can be left for later now. */
export function MoreButtons({
  study,
  practice,
  map,
  skips,
  onSkip,
  onPractice,
  onSheet,
}: {
  study: Study
  practice: boolean
  map: boolean
  skips: boolean
  onSkip: (() => void) | undefined
  onPractice: () => void
  onSheet: (sheet: Open) => void
}) {
  const timed = Boolean(study.draft.measures[0]?.timed)
  const reads = (quantity: string) => study.draft.measures.some((m) => m.quantity === quantity)
  const ways: [Open, string][] = [
    ...(timed || reads('speed') ? ([['gate', 'The camera as a gate']] as [Open, string][]) : []),
    ['follow', 'Follow it through a clip'],
    ...(reads('length') ? ([['picture', 'Read it off a picture']] as [Open, string][]) : []),
    ...(timed
      ? ([
          ['frames', 'Time it by frames of a video'],
          ['sound', 'Time it by sound'],
          ['thumbs', 'Try the thumb'],
        ] as [Open, string][])
      : []),
    ...(map ? ([['map', 'Point at the landing']] as [Open, string][]) : []),
    ['hand', 'Hand this lane on'],
    ...(study.instruments?.length ? ([['instruments', 'Instruments']] as [Open, string][]) : []),
  ]
  return (
    <div className="mb-1 flex flex-wrap gap-x-1 [&>*]:px-1.5">
      <button type="button" className="btn btn-plain" onClick={onSkip} disabled={!skips}>
        Skip
      </button>
      <button type="button" className="btn btn-plain" onClick={() => onSheet('count')}>
        Count down
      </button>
      <button type="button" className="btn btn-plain" aria-pressed={practice} onClick={onPractice}>
        {practice ? 'Count it again' : 'Practice'}
      </button>
      <button type="button" className="btn btn-plain" onClick={() => onSheet('now')}>
        Conditions now
      </button>
      <Suspense fallback={<span className="btn btn-plain">Other ways</span>}>
        <Ways studyId={study.id} ways={ways} onSheet={onSheet} />
      </Suspense>
      <Link to={`/study/${study.id}/trials`} className="btn btn-plain lg:hidden">
        All trials
      </Link>
    </div>
  )
}
