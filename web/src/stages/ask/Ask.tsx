import { NotOpened } from '../../parts/NotOpened'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import type { Ahead, Draft, Family, Study } from '../../data/api'
import { useAhead, useFamilies, useStudy } from '../../data/queries'
import { usePlan } from '../../data/usePlan'
import { Frame } from '../../parts/Frame'
import { PaperHead } from '../../parts/PaperHead'
import { Line, Pick, Skeleton } from '../../parts/parts'
import { PlanSaved } from '../../planning/PlanSaved'
import { sayings } from '../../planning/problems'
import { Undo } from '../../planning/Undo'
import { CHOICES } from '../../planning/choices.gen'
import { pairs, why } from '../../planning/words'
import { kindChange, measureFor, same, toggleMeasure, variableFor } from '../../planning/choose'
import { KeptSameList } from '../../planning/KeptSameList'
import { AtWork } from '../../parts/AtWork'
import { ToGroup } from './ToGroup'
import { Wall } from './Wall'

export function Ask() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const families = useFamilies()
  if (study.isPending || families.isPending) return <Skeleton lines={6} />
  if (study.isLoadingError) return <NotOpened error={study.error} again={() => void study.refetch()} />
  if (families.isLoadingError) return <NotOpened error={families.error} again={() => void families.refetch()} />
  return <Asking key={id} study={study.data} families={families.data} />
}

/** The ideas wall of the class: everything that could be changed and measured; what a group takes; the rest is kept the same. */
function Asking({ study, families }: { study: Study; families: Family[] }) {
  const plan = usePlan(study)
  const { draft, change, saving } = plan
  const ahead = useAhead(study.id).data
  const family = families.find((f) => f.id === draft.family)
  const { at } = sayings(study, draft, saving)
  const [giving, setGiving] = useState(false)
  const changing = draft.variable.name ?? ''
  const measured = draft.measures.map((m) => m.name).filter(Boolean)
  const wall = draft.asked_by !== 'teacher'
  return (
    <Frame study={study} title={`Ask: ${study.title}`}>
      <div className="mx-auto w-full max-w-[84rem] px-4 py-6 md:px-8">
        <h1 className="sr-only">Ask: {study.title}</h1>
        <PaperHead study={study} what="what could be changed and measured" />
        <div className="no-print grid gap-6 md:grid-cols-3">
          <Pick
            label="Family of devices"
            value={draft.family ?? ''}
            options={[['', 'Choose …'], ...families.map((f) => [f.id, f.name] as const)]}
            says={at('family')}
            hint={family?.covers}
            onChange={(picked) => change({ family: picked })}
          />
          <Pick
            label="Kind of study"
            value={draft.study_kind ?? 'fair_test'}
            options={pairs(CHOICES.study_kind)}
            hint={why(CHOICES.study_kind, draft.study_kind)}
            says={at('study_kind')}
            onChange={(kind) => change(kindChange(draft, kind))}
          />
          <Pick
            label="Who sets the question"
            value={draft.asked_by ?? 'pupils'}
            options={pairs(CHOICES.asked_by)}
            onChange={(asked_by) => change({ asked_by })}
          />
        </div>
        <Concludes ahead={ahead} />
        {wall ? null : (
          <div className="mt-6">
            <Line
              label="The question"
              rows={2}
              big
              value={draft.question ?? ''}
              says={at('question')}
              placeholder="How does … affect …?"
              onChange={(question) => change({ question })}
            />
          </div>
        )}
        <div className="mt-6 grid gap-x-12 gap-y-8 md:grid-cols-2">
          <Wall
            title="What could be changed?"
            ideas={draft.could_change ?? []}
            chosen={changing ? [changing] : []}
            tag="we change this"
            act="Change this"
            usual={family?.variables.map((v) => v.name) ?? []}
            familyName={family?.name}
            onIdeas={(could_change) => change({ could_change })}
            onChoose={(idea) => change(chooseVariable(draft, idea, family))}
          />
          <Wall
            title="What could be measured?"
            ideas={draft.could_measure ?? []}
            chosen={measured}
            tag="we measure this"
            act="Measure this"
            usual={family?.measures.map((m) => m.name) ?? []}
            familyName={family?.name}
            onIdeas={(could_measure) => change({ could_measure })}
            onChoose={(idea) => change(toggleMeasure(draft, idea, family))}
          />
        </div>
        <p className="mt-8 mb-0 text-[1.5rem] font-semibold" aria-live="polite" data-question>
          {changing && measured.length ? (
            <span className="mark-line">{ahead?.question || `${changing}: ${measured.join(' and ')}`}</span>
          ) : (
            'Choose one thing to change and one thing to measure; the rest is kept the same.'
          )}
        </p>
        <div className="mt-2 flex flex-wrap items-center gap-x-6 gap-y-2">
          {changing && measured.length ? (
            <>
              <button type="button" className="btn" disabled={!ahead?.question} onClick={() => change({ question: ahead?.question ?? '' })}>
                Make it the question
              </button>
              <Link to={`/study/${study.id}/plan`} className="btn btn-act">
                Plan it
              </Link>
              <button type="button" className="btn btn-plain" onClick={() => setGiving(true)}>
                Give one group a different choice
              </button>
            </>
          ) : null}
          {draft.could_change?.length || draft.could_measure?.length || changing ? (
            <button type="button" className="btn btn-plain" onClick={() => window.print()}>
              Print
            </button>
          ) : null}
          <PlanSaved plan={plan} />
          <Undo study={study} />
        </div>
        <KeptSameList draft={draft} change={change} ahead={ahead} at={at} study={study} />
        <AtWork family={family} level={draft.reading_level ?? 'middle'} />
        <ToGroup open={giving} onClose={() => setGiving(false)} study={study} draft={draft} family={family} settled={plan.send} />
      </div>
    </Frame>
  )
}

/** What this kind of study can and cannot conclude, said before anything is planned. */
function Concludes({ ahead }: { ahead: Ahead | undefined }) {
  if (!ahead) return null
  return (
    <p className="m-0 mt-3 max-w-[62rem] text-[1.05rem]" data-concludes>
      {ahead.can} <span className="text-quiet">{ahead.cannot}</span>
    </p>
  )
}

function chooseVariable(draft: Draft, idea: string, family: Family | undefined): Partial<Draft> {
  if (same(draft.variable.name ?? '', idea)) return { variable: { name: '', kind: 'number', quantity: 'number', unit: '', levels: [], level_ids: [] } }
  const rest = draft.measures.filter((m) => !same(m.name, idea))
  return { variable: variableFor(idea, family), measures: rest.length ? rest : [{ ...measureFor('', undefined), id: 'm1' }] }
}
