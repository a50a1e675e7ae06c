import { useQuery } from '@tanstack/react-query'
import { api, ask, type Study } from '../../data/api'
import { Says, Sheet } from '../../parts/parts'

export type HowAsked = { about: 'mean' | 'difference' | 'trial'; first: string; second?: string; response?: string }

/** The working of a number: the formula, the numbers put in, the answer. All of it comes from the core. */
export function How({ asked, study, onClose }: { asked: HowAsked | null; study: Study; onClose: () => void }) {
  const working = useQuery({
    queryKey: ['how', study.id, asked, study.kept, study.void],
    enabled: asked !== null,
    queryFn: () => ask(api.GET('/api/studies/{study_id}/how', { params: { path: { study_id: study.id }, query: asked as HowAsked } })),
  })
  return (
    <Sheet open={asked !== null} onClose={onClose} title={working.data?.title ?? 'Working'} wide>
      {working.isError ? <Says>{working.error.message}</Says> : null}
      <ol className="num m-0 grid list-none gap-2 p-0 text-[1.1rem]" data-working>
        {working.data?.lines.map((line) => (
          <li key={line} className={line.startsWith('=') ? 'pl-6' : ''}>
            {line}
          </li>
        ))}
      </ol>
    </Sheet>
  )
}
