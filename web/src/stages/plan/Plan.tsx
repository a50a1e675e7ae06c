import { useNavigate, useParams } from 'react-router'
import type { Draft, Family, Study } from '../../data/api'
import { useAhead, useFamilies, useStudy } from '../../data/queries'
import { usePlan } from '../../data/usePlan'
import { Frame } from '../../parts/Frame'
import { Line, Part, Pick, Skeleton, Trouble } from '../../parts/parts'
import { DropPart } from './DropPart'
import { JudgedPart } from './JudgedPart'
import { MeasurePart } from './MeasurePart'
import { OftenPart } from './OftenPart'
import { PlanAside } from './PlanAside'
import { PlanTabs } from './PlanTabs'
import { sayings } from './problems'
import { RehearsalPart } from './RehearsalPart'
import { SafetyPart } from './SafetyPart'
import { VariablePart } from './VariablePart'
import { expectations, KINDS, pairs } from './words'

export function Plan() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const families = useFamilies()
  if (study.isPending || families.isPending) return <Skeleton lines={6} />
  if (study.isError) return <Trouble error={study.error} again={() => void study.refetch()} />
  if (families.isError) return <Trouble error={families.error} again={() => void families.refetch()} />
  return <Planning key={id} study={study.data} families={families.data} />
}

function Planning({ study, families }: { study: Study; families: Family[] }) {
  const plan = usePlan(study)
  const { draft, change, saving, send } = plan
  const ahead = useAhead(study.id).data
  const go = useNavigate()
  const family = families.find((f) => f.id === draft.family)
  const { at, asked, grave } = sayings(study, draft, saving)
  const part = { draft, change, at, asked }
  const drops = ahead?.survival || Boolean(draft.drop)
  const start = async () => {
    await send()
    go(`/study/${study.id}/run`)
  }
  return (
    <Frame study={study} title={`Plan: ${study.title}`}>
      <PlanTabs id={study.id} />
      <div className="mx-auto grid w-full max-w-[84rem] grid-cols-[minmax(0,1fr)] gap-x-14 px-4 py-6 md:grid-cols-[minmax(0,1fr)_20rem] md:px-8">
        <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-9">
          <h1 className="sr-only">Plan: {study.title}</h1>
          <Part n="1" title="The question">
            <Line label="What will the trials answer?" says={at('question')} hint={asked('question')} rows={2} big value={draft.question ?? ''} placeholder="How does … affect …?" onChange={(question) => change({ question })} />
            <div className="grid gap-6 md:grid-cols-2">
              <Pick
                label="Family of devices"
                says={at('family')}
                hint={family ? family.covers : asked('family')}
                value={draft.family ?? ''}
                options={[['', 'Choose …'], ...families.map((f) => [f.id, f.name] as const)]}
                onChange={(picked) => change({ family: picked })}
              />
              <Pick label="Kind of study" says={at('study_kind')} hint={ahead?.cannot} value={draft.study_kind ?? 'fair_test'} options={pairs(KINDS)} onChange={(study_kind) => change(kindChange(draft, study_kind))} />
            </div>
          </Part>
          <Part n="2" title="The one thing to change">
            <VariablePart {...part} family={family} problems={study.problems} ahead={ahead} />
          </Part>
          <Part n="3" title="What is measured">
            <MeasurePart where="measure" value={draft.measure} family={family} at={at} asked={asked} onChange={(measure) => change({ measure })} onUsual={(measure, usual) => change({ measure, timing: { ...draft.timing, setup_s: family?.setup_s ?? 20, reset_s: family?.reset_s ?? 15, flight_s: usual.flight_s, reading_s: usual.reading_s } })} />
            {draft.also ? (
              <div className="hair pt-4">
                <MeasurePart where="also" value={draft.also} family={family} at={at} asked={asked} onChange={(also) => change({ also })} />
                <button type="button" className="btn btn-plain" onClick={() => change({ also: null })}>
                  Remove the second measurement
                </button>
              </div>
            ) : (
              <button type="button" className="btn btn-plain justify-self-start" onClick={() => change({ also: { ...draft.measure, name: '', rule: '', timed: false, timers: 1, step: '' } })}>
                Add a second measurement
              </button>
            )}
            <div className="grid gap-6 md:grid-cols-2">
              <Line label="Where the start line is" says={at('start_line')} value={draft.start_line ?? ''} placeholder="Front edge of the tape across the hall" onChange={(start_line) => change({ start_line })} />
              <Line label="What makes a trial void" says={at('void_rule')} value={draft.void_rule ?? ''} placeholder={family?.faults.slice(0, 2).join(', ') ?? ''} onChange={(void_rule) => change({ void_rule })} />
            </div>
            {drops ? <DropPart {...part} /> : null}
          </Part>
          <Part n="4" title="How often, and who">
            <OftenPart {...part} ahead={ahead} />
          </Part>
          <Part n="5" title="The prediction">
            <div className="grid gap-6 md:grid-cols-2">
              <Line label="What will happen?" says={at('prediction')} hint={asked('prediction') ?? (study.kept ? 'Locked: trials have been kept.' : 'Locked when the first trial is kept.')} rows={2} value={draft.prediction ?? ''} onChange={(prediction) => change({ prediction })} />
              <Line label="Why?" says={at('reason')} rows={2} value={draft.reason ?? ''} placeholder="Because …" onChange={(reason) => change({ reason })} />
            </div>
            <Pick label="In short" value={draft.expect ?? ''} options={[['', 'not said'], ...expectations(draft)]} onChange={(expect) => change({ expect })} />
          </Part>
          <Part n="6" title="How it will be judged">
            <JudgedPart {...part} />
          </Part>
          <Part n="7" title="Cautions and limits">
            <SafetyPart {...part} study={study} ahead={ahead} settled={send} />
          </Part>
          <Part n="8" title="Rehearsal">
            <RehearsalPart {...part} study={study} ahead={ahead} />
          </Part>
        </div>
        <PlanAside study={study} draft={draft} grave={grave} ahead={ahead} plan={plan} onStart={() => void start()} />
      </div>
    </Frame>
  )
}

/** The variable of a contest is the device and of design rounds the version; a fair test has its own. */
export function kindChange(draft: Draft, study_kind: NonNullable<Draft['study_kind']>): Partial<Draft> {
  const untouched = !draft.variable.name || ['device', 'version'].includes(draft.variable.name)
  if (!untouched) return { study_kind }
  if (study_kind === 'contest') return { study_kind, variable: { name: 'device', kind: 'name', quantity: 'number', unit: '', levels: [...(draft.groups ?? [])] } }
  if (study_kind === 'design_rounds') return { study_kind, variable: { name: 'version', kind: 'name', quantity: 'number', unit: '', levels: ['1', '2'] } }
  return { study_kind, variable: { name: '', kind: 'number', quantity: 'number', unit: '', levels: [] } }
}
