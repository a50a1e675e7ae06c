import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, ask, type Study } from '../../data/api'
import { Formula } from '../../parts/Formula'
import { Says, Sheet } from '../../parts/parts'

export type HowAsked = { about: 'mean' | 'difference' | 'trial'; first: string; second?: string; response?: string }

/** The working of a number: the formula, the numbers put in, the answer. All of it comes from the core. For a class on the wall it is shown
 *  step by step, so that the next line can be said before it is seen. */
export function How({ asked, study, onClose }: { asked: HowAsked | null; study: Study; onClose: () => void }) {
  const working = useQuery({
    queryKey: ['how', study.id, asked, study.kept, study.void],
    enabled: asked !== null,
    queryFn: () => ask(api.GET('/api/studies/{study_id}/how', { params: { path: { study_id: study.id }, query: asked as HowAsked } })),
  })
  const [steps, setSteps] = useState<{ of: HowAsked | null; seen: number } | null>(null)
  const seen = steps && steps.of === asked ? steps.seen : null
  const lines = working.data?.lines ?? []
  const shown = seen === null ? lines : lines.slice(0, seen)
  return (
    <Sheet open={asked !== null} onClose={onClose} title={working.data?.title ?? 'Working'} wide>
      {working.isError ? <Says>{working.error.message}</Says> : null}
      <ol className={`num m-0 grid list-none p-0 ${seen === null ? 'gap-2 text-[1.1rem]' : 'gap-4 text-[1.7rem]'}`} data-working aria-live="polite">
        {shown.map((line) => (
          <li key={line} className={line.startsWith('=') ? 'pl-6' : ''}>
            <Formula line={line} />
          </li>
        ))}
      </ol>
      {lines.length > 1 ? (
        <p className="no-print m-0 mt-4 flex flex-wrap gap-x-5">
          {seen === null ? (
            <button type="button" className="btn" onClick={() => setSteps({ of: asked, seen: 1 })}>
              Step by step
            </button>
          ) : (
            <>
              {seen < lines.length ? (
                <button type="button" className="btn btn-act" onClick={() => setSteps({ of: asked, seen: seen + 1 })}>
                  Next step
                </button>
              ) : null}
              <button type="button" className="btn" onClick={() => setSteps(null)}>
                All at once
              </button>
            </>
          )}
        </p>
      ) : null}
    </Sheet>
  )
}
