import { NotOpened } from '../../parts/NotOpened'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { v4 as uuid } from 'uuid'
import { api, ask, Refusal, type Study } from '../../data/api'
import { anew, useStudy } from '../../data/queries'
import { usePlan } from '../../data/usePlan'
import { Empty } from '../../parts/Empty'
import { Frame } from '../../parts/Frame'
import { glued } from '../../parts/glue'
import { Line, Part, Shape, Skeleton, Told, Trouble } from '../../parts/parts'
import { PlanSaved } from '../../planning/PlanSaved'

/** After the verdict: which is kept, the one thing that is changed next, and why, written down by the group; and the study that does so. */
export function Decide() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const follows = useQuery({
    queryKey: ['following', id, study.data?.kept, study.data?.void],
    enabled: Boolean(study.data),
    queryFn: () => ask(api.GET('/api/studies/{study_id}/following', { params: { path: { study_id: id } } })),
  })
  if (study.isLoadingError) return <NotOpened error={study.error} again={() => void study.refetch()} />
  if (!study.data || follows.isPending) return <Skeleton lines={5} />
  return (
    <Frame study={study.data} title={`Decide: ${study.data.title}`}>
      {follows.isError && follows.error instanceof Refusal && follows.error.code === 'plan_not_ready' ? (
        <Empty title="Nothing to decide yet" says={[follows.error.message]} to={`/study/${id}/plan`} act="Go on planning" />
      ) : follows.isError ? (
        <Trouble error={follows.error} again={() => void follows.refetch()} />
      ) : (
        <Deciding
          key={id}
          study={study.data}
          best={follows.data.best}
          why={follows.data.why}
          ideas={follows.data.ideas}
          between={follows.data.between}
          past={follows.data.past}
        />
      )}
    </Frame>
  )
}

/** Levels with their unit: behind the last, or where each was typed with its own, there. */
const unitOnce = (levels: readonly string[], unit: string): string =>
  levels.some((l) => /[a-z°]/i.test(l)) || unit === 'count' ? levels.join(', ') : `${levels.join(', ')} ${unit}`

function Deciding({
  study,
  best,
  why,
  ideas,
  between,
  past,
}: {
  study: Study
  best: readonly { id: string; label: string }[]
  why: string
  ideas: readonly string[]
  between: readonly string[]
  past: readonly string[]
}) {
  const plan = usePlan(study)
  const { draft, change, send } = plan
  const go = useNavigate()
  const [says, setSays] = useState('')
  const said = draft.decided ?? { best: '', change: '', why: '' }
  const decided = { best: said.best ?? '', change: said.change ?? '', why: said.why ?? '' }
  const write = (part: Partial<typeof decided>) => change({ decided: { ...decided, ...part } })
  const kept = decided.best || best[0]?.id || ''
  const concluded = kept === best[0]?.id // the levels offered are those about the concluded best
  const rounds = draft.study_kind === 'design_rounds'
  const start = async (same?: 'between' | 'past') => {
    setSays('')
    try {
      await send()
      const body = { id: uuid(), best: kept, change: decided.change, between: same === 'between', past: same === 'past' }
      const made = await ask(api.POST('/api/studies/{study_id}/following', { params: { path: { study_id: study.id } }, body }))
      await anew(['home'])
      void go(`/study/${made.id}/plan`)
    } catch (whyNot) {
      if (!(whyNot instanceof Refusal)) throw whyNot
      setSays(whyNot.message)
    }
  }
  return (
    <div className="grid w-full grid-cols-[minmax(0,1fr)] gap-x-12 gap-y-8 px-4 py-6 md:grid-cols-[minmax(0,1fr)_24rem] md:px-8">
      <div className="grid content-start gap-6">
        <h1 className="m-0 text-[2.4rem]">What comes next?</h1>
        <Part n="1" title="The best">
          <p className="m-0 text-[1.15rem]" data-best>
            {why}
          </p>
          {best.length ? (
            <fieldset className="m-0 flex flex-wrap gap-3 border-0 p-0">
              <legend className="sr-only">Which is kept</legend>
              {study.levels.map((l, i) => (
                <button
                  key={l.id}
                  type="button"
                  aria-pressed={l.id === kept}
                  className={`btn ${l.id === kept ? 'bg-tape text-tape-ink' : 'border-hair font-normal'}`}
                  onClick={() => write({ best: l.id })}
                >
                  <Shape n={i} size={14} /> {l.label}
                </button>
              ))}
            </fieldset>
          ) : (
            <Link className="btn justify-self-start" to={`/study/${study.id}/run`}>
              Go to the run
            </Link>
          )}
        </Part>
        <Part n="2" title="One thing to change next">
          {ideas.length ? (
            <fieldset className="m-0 flex flex-wrap gap-2 border-0 p-0">
              <legend className="sr-only">Ideas of the class and of the family</legend>
              {ideas.map((idea) => (
                <button
                  key={idea}
                  type="button"
                  aria-pressed={idea === decided.change}
                  className={`btn min-h-[44px] px-3 ${idea === decided.change ? 'bg-tape text-tape-ink' : 'border-hair font-normal'}`}
                  onClick={() => write({ change: idea })}
                >
                  {idea}
                </button>
              ))}
            </fieldset>
          ) : null}
          <Line label="Or in your own words" value={decided.change} onChange={(text) => write({ change: text.slice(0, 60) })} />
          <Line label="Why?" rows={2} value={decided.why} placeholder="We think …" onChange={(text) => write({ why: text })} />
          <PlanSaved plan={plan} />
        </Part>
      </div>
      <aside className="self-start border-l-[8px] border-tape pl-6" aria-label="Start it">
        <h2 className="m-0 text-[1.4rem]">Start it</h2>
        {rounds ? (
          <>
            <p>Build the next version with this one thing changed; the shelf works out what differs.</p>
            <Link className="btn btn-act" to={`/study/${study.id}/build`}>
              Go to the versions
            </Link>
          </>
        ) : (
          <>
            {draft.study_kind === 'contest' && draft.rules?.payload_multiple ? (
              <p>
                The same contest again, lighter: <Link to={`/study/${study.id}/build`}>build the next version</Link> at three quarters of its mass.
              </p>
            ) : null}
            <p>
              A study of its own: {draft.second ? `${draft.variable.name} and ${draft.second.name} stay` : `${draft.variable.name} stays`} at{' '}
              {study.levels.find((l) => l.id === kept)?.label ?? 'the best'}, everything else is measured and kept the same as here. The class predicts anew.
            </p>
            <div className="grid gap-3">
              <button type="button" className="btn btn-act" disabled={!kept || !decided.change.trim()} onClick={() => void start()}>
                {decided.change.trim() ? `Plan it: change ${decided.change.trim()}` : 'Plan it'}
              </button>
              {decided.change.trim() ? null : <p className="m-0 text-quiet">First choose one thing to change.</p>}
              {concluded && past.length ? (
                <button type="button" className="btn" onClick={() => void start('past')}>
                  {glued(`Same thing, past it: ${unitOnce(past, draft.variable.unit)}`)}
                </button>
              ) : null}
              {concluded && between.length ? (
                <button type="button" className="btn" onClick={() => void start('between')}>
                  {glued(`Same thing, between: ${unitOnce(between, draft.variable.unit)}`)}
                </button>
              ) : null}
            </div>
          </>
        )}
        <Told says={says} />
        <p className="mt-5">
          <Link to={`/study/${study.id}/work-out`} className="btn btn-plain px-0">
            Back to the verdict
          </Link>
        </p>
      </aside>
    </div>
  )
}
