import { counted } from '../../parts/counted'
import { useState } from 'react'
import { Link } from 'react-router'
import type { Ahead, Draft, Problem, Study } from '../../data/api'
import { useRota } from '../../data/queries'
import { patchStudy } from '../../data/usePlan'
import type { Typing, TypingNow } from '../../machines/typing'
import { Field } from '../../parts/parts'
import { PlanSaved } from '../../planning/PlanSaved'
import { Undo } from '../../planning/Undo'
import { CopyOut } from './CopyOut'
import { Needed } from './Needed'

/** The plan so far: how many trials, whether they fit, what the plan leaves open, and the next act. */
export function PlanAside({
  study,
  draft,
  grave,
  ahead,
  plan,
  onStart,
}: {
  study: Study
  draft: Draft
  grave: Problem[]
  ahead: Ahead | undefined
  plan: TypingNow<Draft> & { machine: Typing<Draft> }
  onStart: () => void
}) {
  return (
    <aside
      className="mt-10 content-start print:mt-4 print:border-t-2 print:border-ink self-start border-t-[8px] border-tape pt-4 md:sticky md:top-4 md:mt-0"
      aria-label="The plan so far"
    >
      <p className="big m-0 text-[4.6rem] leading-none print:text-[1.7rem]">{study.planned}</p>
      <p className="m-0 text-[1.1rem]">
        {study.planned
          ? `trials: ${study.levels.length} ${draft.second ? 'settings' : draft.study_kind === 'contest' ? 'devices' : draft.study_kind === 'design_rounds' ? 'versions' : 'levels'} × ${counted(draft.repeats ?? 0, 'repeat')}`
          : 'trials planned yet'}
      </p>
      <Fits study={study} ahead={ahead} draft={draft} />
      {ahead?.outlook.rehearsal ? <p className="no-print m-0 mt-2">{ahead.outlook.rehearsal.says}</p> : null}
      <Needed problems={study.problems} draft={draft} change={plan.machine.change} ahead={ahead} />
      {grave.length ? null : (
        <button type="button" className="btn btn-act mt-5 min-h-[64px] w-full text-[1.25rem]" onClick={onStart}>
          {study.kept ? 'Go on with the run' : 'Go to the run'}
        </button>
      )}
      <p className="no-print m-0 mt-3">
        <Link to={`/study/${study.id}/plan/print`} className="btn w-full">
          Print everything
        </Link>
      </p>
      <PlanSaved plan={plan} />
      <NextLesson study={study} />
      <Objections ahead={ahead} />
      <div className="mt-5">
        <Undo study={study} />
      </div>
      <CopyOut study={study} settled={plan.machine.send} />
      {study.kept ? (
        <p className="mt-4">
          <Link to={`/study/${study.id}/work-out`} className="btn btn-plain px-0">
            Work out what there is
          </Link>
        </p>
      ) : null}
    </aside>
  )
}

/** Whether it fits: by the rota of the lesson where one stands, else by its trials alone. */
function Fits({ study, ahead, draft }: { study: Study; ahead: Ahead | undefined; draft: Draft }) {
  const made = useRota(study.id).data
  const o = ahead?.outlook
  if (!o?.trials) return null
  if (made && !made.stale)
    return (
      <p className={`m-0 mt-2 ${made.rota.fits ? '' : 'font-semibold text-doubt'}`}>
        {made.rota.says} {made.rota.change}{' '}
        <Link to={`/study/${study.id}/plan/lesson`} className="no-print font-semibold text-ink underline underline-offset-4">
          By the rota
        </Link>
      </p>
    )
  const left = draft.timing?.trials_min ?? 25
  if (!o.time)
    return (
      <p className="m-0 mt-2 font-semibold text-doubt">
        {o.lanes_open ? 'Write how long a trial takes and how many minutes there are.' : 'No lane can be open without an adult.'}
      </p>
    )
  return (
    <p className={`m-0 mt-2 ${o.time.fits ? '' : 'font-semibold text-doubt'}`}>
      {o.time.fits
        ? `About ${Math.ceil(o.time.minutes)} of ${left} min on ${counted(o.lanes_open, 'lane')}${o.practice ? `, with ${o.practice} practice trial${o.practice === 1 ? '' : 's'}` : ''}. It fits.`
        : o.time.change}
    </p>
  )
}

function Objections({ ahead }: { ahead: Ahead | undefined }) {
  const found = ahead?.outlook.objections ?? []
  if (!found.length) return null
  return (
    <>
      <h2 className="mt-6 mb-1 text-[1.25rem]">What the plan leaves open</h2>
      <ul className="m-0 grid list-none gap-3 p-0">
        {found.map((f) => (
          <li key={f.code} data-finding={f.code}>
            {f.says} <span className="text-quiet">{f.do}</span>
          </li>
        ))}
      </ul>
    </>
  )
}

function NextLesson({ study }: { study: Study }) {
  const [says, setSays] = useState('')
  const save = async (day: string) => {
    try {
      await patchStudy(study, { next_lesson: day || 'clear' })
      setSays('')
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <div className="no-print mt-4">
      <Field label="Next lesson" says={says}>
        {(p) => <input {...p} type="date" className="field" defaultValue={study.next_lesson ?? ''} onChange={(e) => void save(e.target.value)} />}
      </Field>
    </div>
  )
}
