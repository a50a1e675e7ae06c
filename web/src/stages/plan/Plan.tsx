import { NotOpened } from '../../parts/NotOpened'
import { counted } from '../../parts/counted'
import { useNavigate, useParams } from 'react-router'
import type { Draft, Family, Study } from '../../data/api'
import { unitSaid } from '../../data/measures'
import { useAhead, useFamilies, useStudy } from '../../data/queries'
import { usePlan } from '../../data/usePlan'
import { Frame } from '../../parts/Frame'
import { PaperHead } from '../../parts/PaperHead'
import { Fold, FoldAll } from '../../parts/Fold'
import { Line, Pick, Skeleton } from '../../parts/parts'
import { kindChange } from '../../planning/choose'
import { KeptSameList } from '../../planning/KeptSameList'
import { DropPart } from './DropPart'
import { JudgedPart } from './JudgedPart'
import { DerivedPart } from './DerivedPart'
import { MeasuresPart } from './MeasuresPart'
import { OftenPart } from './OftenPart'
import { PlanAside } from './PlanAside'
import { PlanTabs } from './PlanTabs'
import { sayings } from '../../planning/problems'
import { RehearsalPart } from './RehearsalPart'
import { SafetyPart } from './SafetyPart'
import { SecondPart } from './SecondPart'
import { VariablePart } from './VariablePart'
import { CHOICES } from '../../planning/choices.gen'
import { expectations, pairs } from '../../planning/words'

export function Plan() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const families = useFamilies()
  if (study.isPending || families.isPending) return <Skeleton lines={6} />
  if (study.isLoadingError) return <NotOpened error={study.error} again={() => void study.refetch()} />
  if (families.isLoadingError) return <NotOpened error={families.error} again={() => void families.refetch()} />
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
  /** Whether something of a part is missing or wrong; a prediction or rule that is only asked for counts as missing too. */
  const missing = (...places: string[]) =>
    study.problems.some((p) => places.some((w) => p.where === w || p.where.startsWith(`${w}.`)) && (p.grave || p.code.endsWith('_missing')))
  const waiting = study.problems.some((p) => /^(limit_|held_)/.test(p.code))
  const unlimited = study.problems.some((p) => p.code === 'limit_missing') && Boolean(ahead?.limits.some((l) => l.on === 'variable' && l.needed))
  const start = async () => {
    await send()
    go(`/study/${study.id}/run`)
  }
  return (
    <Frame study={study} title={`Plan: ${study.title}`}>
      <PlanTabs id={study.id} />
      <div className="mx-auto grid w-full max-w-[84rem] grid-cols-[minmax(0,1fr)] gap-x-14 px-4 py-6 md:grid-cols-[minmax(0,1fr)_20rem] md:px-8 print:block print:p-0">
        <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-4 print:gap-2">
          <PaperHead study={study} what="the plan" />
          <h1 className="sr-only">Plan: {study.title}</h1>
          <FoldAll />
          <Fold
            n="1"
            title="The question"
            says={[draft.question, family?.name].filter(Boolean).join(' · ')}
            missing={missing('question', 'family', 'study_kind')}
          >
            <Line
              label="What will the trials answer?"
              says={at('question')}
              hint={asked('question')}
              rows={2}
              big
              value={draft.question ?? ''}
              placeholder="How does … affect …?"
              onChange={(question) => change({ question })}
            />
            <div className="grid gap-6 md:grid-cols-2">
              <Pick
                label="Family of devices"
                says={at('family')}
                hint={family ? family.covers : asked('family')}
                value={draft.family ?? ''}
                options={[['', 'Choose …'], ...families.map((f) => [f.id, f.name] as const)]}
                onChange={(picked) => change({ family: picked })}
              />
              <Pick
                label="Kind of study"
                says={at('study_kind')}
                hint={ahead?.cannot}
                value={draft.study_kind ?? 'fair_test'}
                options={pairs(CHOICES.study_kind)}
                onChange={(study_kind) => change(kindChange(draft, study_kind))}
              />
            </div>
          </Fold>
          <Fold
            n="2"
            title="The one thing to change"
            says={`${draft.variable.name}: ${study.levels.map((l) => l.label).join(', ')}`}
            missing={missing('variable', 'second') || unlimited}
          >
            <VariablePart {...part} family={family} problems={study.problems} ahead={ahead} study={study} />
            <SecondPart {...part} family={family} />
          </Fold>
          <Fold n="3" title="What is measured" says={measuredSays(draft)} missing={missing('measures', 'drop', 'survival', 'payloads', 'margin')}>
            <MeasuresPart {...part} family={family} />
            <div className="grid gap-6 md:grid-cols-2">
              <Line
                label="Where the start line is"
                says={at('start_line')}
                value={draft.start_line ?? ''}
                placeholder="Front edge of the tape across the hall"
                onChange={(start_line) => change({ start_line })}
              />
              <Line
                label="What makes a trial void"
                says={at('void_rule')}
                value={draft.void_rule ?? ''}
                placeholder={family?.faults.slice(0, 2).join(', ') ?? ''}
                onChange={(void_rule) => change({ void_rule })}
              />
            </div>
            {drops ? <DropPart {...part} /> : null}
          </Fold>
          <Fold
            n="4"
            title="What is worked out"
            says={(draft.derived ?? []).map((d) => `${d.name}${d.unit ? ` in ${d.unit}` : ''}`).join(', ') || 'Nothing beyond the readings.'}
            missing={missing('derived')}
          >
            <DerivedPart {...part} ahead={ahead} study={study} />
          </Fold>
          <Fold
            n="5"
            title="What is kept the same"
            says={(ahead?.kept_same ?? []).map((k) => `${k.name}${k.how ? ` (${k.how})` : ''}`).join(', ') || (ahead ? 'Nothing is named yet.' : '…')}
            missing={missing('hold')}
          >
            <KeptSameList draft={draft} change={change} ahead={ahead} at={at} study={study} />
          </Fold>
          <Fold
            n="6"
            title="How often, and who"
            says={`${counted(draft.repeats ?? 0, 'repeat')} of each level${draft.groups?.length ? `, ${draft.groups.join(', ')}` : ''}${draft.class_label ? `, class ${draft.class_label}` : ''}; ${(CHOICES.order.find((o) => o[0] === draft.order)?.[1] ?? '').replace(' (advised)', '')}`}
            missing={missing('repeats', 'groups', 'rota', 'timing')}
          >
            <OftenPart {...part} ahead={ahead} />
          </Fold>
          <Fold n="7" title="The prediction" says={draft.prediction || 'Not written yet.'} missing={!study.kept && missing('prediction')}>
            <div className="grid gap-6 md:grid-cols-2">
              <Line
                label="What will happen?"
                says={at('prediction')}
                hint={asked('prediction') ?? (study.kept ? 'Locked: trials have been kept.' : 'Locked when the first trial is kept.')}
                rows={2}
                value={draft.prediction ?? ''}
                onChange={(prediction) => change({ prediction })}
              />
              <Line label="Why?" says={at('reason')} rows={2} value={draft.reason ?? ''} placeholder="Because …" onChange={(reason) => change({ reason })} />
            </div>
            <Pick label="In short" value={draft.expect ?? ''} options={[['', 'not said'], ...expectations(draft)]} onChange={(expect) => change({ expect })} />
          </Fold>
          <Fold n="8" title="How it will be judged" says={judgedSays(draft)} missing={false}>
            <JudgedPart {...part} />
          </Fold>
          <Fold
            n="9"
            title="Cautions and limits"
            says={[...study.limits_said, `${study.cautions.length} cautions to read`, study.sign_off?.covers ? `signed by ${study.sign_off.adult}` : '']
              .filter(Boolean)
              .join('; ')}
            missing={missing('limits', 'cautions') || waiting}
            paper={
              <>
                <ul className="m-0 pl-5">
                  {study.cautions.map((c) => (
                    <li key={c}>{c}</li>
                  ))}
                </ul>
                <p className="m-0 mt-1">Your school’s own risk assessment, local rules and qualified staff decide; this list does not replace them.</p>
              </>
            }
          >
            <SafetyPart {...part} study={study} ahead={ahead} settled={send} />
          </Fold>
          <Fold n="10" title="Rehearsal" says={ahead?.outlook.rehearsal?.says ?? ahead?.outlook.why_not ?? ''} missing={false}>
            <RehearsalPart {...part} study={study} ahead={ahead} />
          </Fold>
        </div>
        <PlanAside study={study} draft={draft} grave={grave} ahead={ahead} plan={plan} onStart={() => void start()} />
      </div>
    </Frame>
  )
}

/** The measures in one line, each with its unit. */
const measuredSays = (draft: Draft): string =>
  [
    ...draft.measures.map((m) => `${m.name}${unitSaid(m) ? ` in ${unitSaid(m)}` : ''}${(m.timers ?? 1) > 1 ? `, ${m.timers} timers` : ''}`),
    draft.void_rule ? `void: ${draft.void_rule}` : '',
  ]
    .filter(Boolean)
    .join('; ')

/** The schools in one line, in the words of their choices. */
function judgedSays(draft: Draft): string {
  const word = <T extends string>(options: readonly (readonly [T, string, string])[], id: T) =>
    (options.find((o) => o[0] === id)?.[1] ?? '').replace(' (advised)', '')
  return `Real when ${word(CHOICES.evidence, draft.evidence ?? 'shuffle')}; the result is ${word(CHOICES.result, draft.result ?? 'mean')}; ${draft.reading_level} reading level.`
}
