import { NotOpened } from '../../parts/NotOpened'
import { useState } from 'react'
import { useParams } from 'react-router'
import { api, ask, type Draft, type RotaMade, type Study } from '../../data/api'
import { anew, client, useAhead, useRota, useStudy } from '../../data/queries'
import { usePlan } from '../../data/usePlan'
import { Frame } from '../../parts/Frame'
import { PaperHead } from '../../parts/PaperHead'
import { Line, Part, Says, Skeleton, Tick, Told, Whole } from '../../parts/parts'
import { OnTheWall } from './OnTheWall'
import { PlanTabs } from './PlanTabs'
import { PlanSaved } from '../../planning/PlanSaved'
import { sayings } from '../../planning/problems'
import { RotaChart, RotaTable } from './RotaChart'
import { Undo } from '../../planning/Undo'

export function Lesson() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const rota = useRota(id)
  if (study.isPending || rota.isPending) return <Skeleton lines={6} />
  if (study.isLoadingError) return <NotOpened error={study.error} again={() => void study.refetch()} />
  if (rota.isLoadingError) return <NotOpened error={rota.error} again={() => void rota.refetch()} />
  return <Sheet_ key={id} study={study.data} made={rota.data} />
}

/** The lesson: who builds, tests and improves when, on which lane, under which adult. */
function Sheet_({ study, made }: { study: Study; made: RotaMade | null }) {
  const plan = usePlan(study)
  const { draft, change, saving, send } = plan
  const { at, asked } = sayings(study, draft, saving)
  const [busy, setBusy] = useState(false)
  const [says, setSays] = useState('')
  const [wall, setWall] = useState(false)
  const because = useAhead(study.id).data?.adult_because
  const r = draft.rota ?? {}
  const t = draft.timing ?? {}
  const rota = (part: Partial<NonNullable<Draft['rota']>>) => change({ rota: { ...r, ...part } })
  const timing = (part: Partial<NonNullable<Draft['timing']>>) => change({ timing: { ...t, ...part } })
  const make = async () => {
    setBusy(true)
    setSays('')
    try {
      await send()
      client.setQueryData(['rota', study.id], await ask(api.POST('/api/studies/{study_id}/rota', { params: { path: { study_id: study.id } } })))
      void anew(['study', study.id]) // the lanes call by it
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    } finally {
      setBusy(false)
    }
  }
  if (wall && made) return <OnTheWall study={study} made={made} onClose={() => setWall(false)} />
  return (
    <Frame study={study} title={`Lesson: ${study.title}`}>
      <PlanTabs id={study.id} />
      <div className="mx-auto grid w-full max-w-[90rem] grid-cols-[minmax(0,1fr)] gap-x-12 gap-y-8 px-4 py-6 md:grid-cols-[19rem_minmax(0,1fr)] md:px-8 print:block print:p-0">
        <div className="no-print grid content-start gap-5">
          <h1 className="m-0 border-t-2 border-ink pt-3 text-[1.7rem]">The lesson</h1>
          <div className="grid grid-cols-2 gap-x-6 gap-y-4">
            <Line
              label="Begins at"
              big
              value={r.start ?? ''}
              says={at('rota.start') ?? asked('rota.start')}
              placeholder="09:10"
              onChange={(start) => rota({ start })}
            />
            <Whole label="Minutes in total" least={1} most={600} value={r.lesson_min ?? 50} onChange={(lesson_min) => rota({ lesson_min })} />
            <Whole label="Build, min" most={600} value={r.build_min ?? 10} onChange={(build_min) => rota({ build_min })} />
            <Whole
              label="A test, min"
              hint={r.test_min ? 'As written here.' : made && !made.stale ? `0: by the trials, ${made.lesson.test} min.` : '0: by the trials.'}
              most={600}
              value={r.test_min ?? 0}
              onChange={(test_min) => rota({ test_min })}
            />
            {draft.study_kind === 'design_rounds' ? (
              <Whole label="Improve, min" most={600} value={r.improve_min ?? 5} onChange={(improve_min) => rota({ improve_min })} />
            ) : null}
            <Whole
              label={draft.study_kind === 'design_rounds' ? 'Rounds of tests' : 'Visits to the lane'}
              hint={made && !made.stale && made.lesson.rounds < (r.rounds ?? 2) ? `${made.lesson.rounds} are enough for its trials.` : undefined}
              least={1}
              most={6}
              value={r.rounds ?? 2}
              onChange={(rounds) => rota({ rounds })}
            />
            <Whole label="Tidy up, min" most={120} value={r.tidy_min ?? 5} onChange={(tidy_min) => rota({ tidy_min })} />
            <Whole label="Lanes" least={1} most={12} value={t.lanes ?? 1} onChange={(lanes) => timing({ lanes })} />
            <Whole label="Adults" most={12} value={t.adults ?? 1} onChange={(adults) => timing({ adults })} />
          </div>
          {because ? (
            <p className="m-0">Every open lane has an adult: {because}.</p>
          ) : (
            <Tick checked={r.adult_needed ?? true} onChange={(adult_needed) => rota({ adult_needed })}>
              Every open lane needs an adult: a loaded launcher, a fan, sharp tools.
            </Tick>
          )}
          <button type="button" className="btn btn-act min-h-[60px]" disabled={busy} onClick={() => void make()}>
            {busy ? 'Working it out …' : made ? 'Make the rota again' : 'Make the rota'}
          </button>
          <Told says={says} />
          <PlanSaved plan={plan} />
          <Undo study={study} />
        </div>
        <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-8">
          {made ? (
            <Made made={made} study={study} onWall={() => setWall(true)} />
          ) : (
            <p className="m-0 text-[1.2rem]">
              No rota yet. Say how long the parts of the lesson are; Bendro finds an order in which no group is in two places and no lane stands without its
              adult.
            </p>
          )}
        </div>
      </div>
    </Frame>
  )
}

function Made({ made, study, onWall }: { made: RotaMade; study: Study; onWall: () => void }) {
  const { rota } = made
  return (
    <>
      <section aria-label="The rota">
        <PaperHead study={study} what={`the lesson from ${made.start}`} />
        <h2 className="m-0 text-[2.2rem]">{rota.fits ? 'It fits' : `${rota.over} min too long`}</h2>
        <p className="m-0 mt-1 text-[1.1rem]" data-rota-says>
          {rota.says} {rota.change}
        </p>
        {rota.closed ? <Says>{rota.closed}</Says> : null}
        {made.stale ? <Says>The plan has changed since this rota was made. Make it again.</Says> : null}
        <div className="mt-4">
          <RotaChart made={made} />
        </div>
        <div className="no-print mt-3 flex flex-wrap gap-3">
          <button type="button" className="btn" onClick={onWall}>
            On the wall
          </button>
          <button type="button" className="btn" onClick={() => window.print()}>
            Print
          </button>
        </div>
      </section>
      <Part title={`Who is where, ${study.title}`}>
        <RotaTable made={made} />
      </Part>
    </>
  )
}
