import { useState } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'
import { type Analysis, Refusal, type Study, type Trial } from '../../data/api'
import { useAnalysis, useBeside, useStudy, useTrials } from '../../data/queries'
import { Frame } from '../../parts/Frame'
import { PaperHead } from '../../parts/PaperHead'
import { Says, Skeleton, Trouble } from '../../parts/parts'
import { Tape } from '../../tape/Tape'
import { levelIndex } from '../../data/trials'
import { Ladder } from '../../tape/Ladder'
import { flagOf, flagWord, marksOf, tapeLevels } from '../../tape/marks'
import { Shares } from '../../tape/Shares'
import { useTrialsSeen } from '../../data/useTrialsSeen'
import { ActControl, Out, Within } from './Acts'
import { Against } from './Against'
import { How, type HowAsked } from './How'
import { BesidePart, Survived, WorkedTrials } from './Beside'
import { Choosing, over } from './Choosing'
import { EffectNumbers } from './EffectNumbers'
import { Numbers } from './Numbers'
import { WhatIf } from './WhatIf'

export function WorkOut() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const trials = useTrials(id)
  const [search, setSearch] = useSearchParams()
  const response = search.get('measure') ?? ''
  const factor = search.get('over') ?? ''
  const analysis = useAnalysis(id, response, factor)
  const choose = (next: { measure?: string; over?: string }) => {
    const now = { measure: response, over: factor, ...next }
    setSearch(Object.fromEntries(Object.entries(now).filter(([, v]) => v)), { replace: true })
  }
  if (study.isError || trials.isError)
    return <Trouble error={study.error ?? trials.error} again={() => void Promise.all([study.refetch(), trials.refetch()])} />
  if (!study.data || !trials.data || analysis.isPending) return <Skeleton lines={6} />
  return (
    <Frame study={study.data} title={`Work out: ${study.data.title}`}>
      {analysis.isError ? (
        analysis.error instanceof Refusal && analysis.error.code === 'plan_not_ready' ? (
          <div className="px-4 py-10 md:px-8">
            <h1 className="m-0 text-[2.8rem]">Nothing to work out yet</h1>
            <p className="text-[1.15rem]">{analysis.error.message}</p>
            <Link className="btn btn-act" to={`/study/${id}/plan`}>
              Go on planning
            </Link>
          </div>
        ) : (
          <Trouble error={analysis.error} again={() => void analysis.refetch()} />
        )
      ) : (
        <Worked key={`${response} ${factor}`} study={study.data} trials={trials.data} a={analysis.data} response={response} factor={factor} onChoose={choose} />
      )}
    </Frame>
  )
}

const ANSWER = { clear: 'Clear', leaning: 'Leaning, not settled', cannot_tell: 'Cannot tell yet' } as const
const WEIGHT = { stop: 'Stop', warn: 'Doubt', note: 'Note' } as const

/** The headline with its size underlined by a strip of tape; the pieces come from the core. */
function Headline({ a }: { a: Analysis }) {
  return (
    <>
      {a.verdict.spans.map((s, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a piece of a sentence is its place
        <span key={i} className={s.holds === 'size' && a.verdict.size ? 'mark-line md:whitespace-nowrap print:whitespace-nowrap' : undefined}>
          {s.text.replace(/(\d) (?=[^\s\d]+$)/, '$1\u00a0')}
        </span>
      ))}
    </>
  )
}

function Worked({
  study,
  trials,
  a,
  response,
  factor,
  onChoose,
}: {
  study: Study
  trials: Trial[]
  a: Analysis
  response: string
  factor: string
  onChoose: (next: { measure?: string; over?: string }) => void
}) {
  const seen = useTrialsSeen(study, trials)
  const beside = useBeside(study.id).data
  const shown = study.responses.find((r) => r.id === (response || study.draft.measures[0]?.id))
  const of = shown?.id ?? ''
  const [view, setView] = useState<'levels' | 'against'>('levels')
  const [how, setHow] = useState<HowAsked | null>(null)
  const first = study.draft.reading_level === 'first'
  const unit = a.response.unit ?? ''
  const drawn = factor
    ? over(a, seen, factor).map((l) => ({ ...l, marks: marksOf(l.trials, of, unit) }))
    : tapeLevels(study, seen, undefined, undefined, of, unit)
  const levels = drawn.map((l, i) => {
    const s = a.levels.find((x, at) => (factor ? at === i : levelIndex(study, x.level) === i))
    return s && s.n_kept > 0 ? { ...l, ...flagOf(s, study), low: s.min, high: s.max } : l
  })
  const trend = a.effect.kind === 'trend' ? a.effect.trend : null
  const waiting = seen.filter((t) => t.saved !== 'yes').length
  const short = a.verdict.says.length < 70
  return (
    <div className="grid w-full grid-cols-[minmax(0,1fr)] gap-x-10 px-4 py-6 md:grid-cols-[minmax(0,1fr)_22rem] md:px-8 print:block print:p-0">
      <div className="min-w-0">
        <PaperHead study={study} />
        <p className="m-0 flex items-center gap-3 font-semibold">
          <span
            className={`inline-block border-2 border-ink px-3 py-0.5 ${a.verdict.answer === 'clear' ? 'bg-ink text-floor' : a.verdict.answer === 'leaning' ? 'border-dashed' : ''}`}
          >
            {a.verdict.so_far ? `So far: ${ANSWER[a.verdict.answer].toLowerCase()}` : ANSWER[a.verdict.answer]}
          </span>
          <span className="text-quiet no-print">{study.draft.question}</span>
        </p>
        <h1 className={`m-0 mt-3 max-w-[60rem] ${short ? 'text-[2.6rem]' : 'text-[2.3rem]'} max-md:text-[1.8rem]`}>
          <Headline a={a} />
        </h1>
        {a.verdict.detail ? <p className="m-0 mt-3 max-w-[56rem] text-[1.05rem] text-quiet">{a.verdict.detail}</p> : null}
        {a.verdict.beside ? <p className="m-0 mt-1 max-w-[56rem] text-[1.05rem] text-quiet">{a.verdict.beside}</p> : null}
        {a.verdict.prediction ? <p className="m-0 mt-1 text-[1.05rem]">{a.verdict.prediction}</p> : null}
        {waiting ? (
          <Says>{waiting === 1 ? 'One trial in this browser is' : `${waiting} trials in this browser are`} not in this verdict yet: waiting to be sent.</Says>
        ) : null}
        {study.outside ? (
          <Says>
            {study.outside === 1 ? 'One trial stands' : `${study.outside} trials stand`} outside the plan and {study.outside === 1 ? 'counts' : 'count'} for
            nothing here. <Link to={`/study/${study.id}/trials`}>Look at {study.outside === 1 ? 'it' : 'them'}</Link>
          </Says>
        ) : null}
        <Choosing study={study} response={of} factor={factor} onChoose={onChoose} />
        {trend && shown?.shape !== 'rungs' ? (
          <div role="tablist" aria-label="How the trials are drawn" className="no-print mt-5 flex gap-2">
            {(
              [
                ['levels', 'Level by level'],
                ['against', `Against ${study.draft.variable.name}`],
              ] as const
            ).map(([id, label]) => (
              <button
                key={id}
                id={`tab-${id}`}
                type="button"
                role="tab"
                aria-selected={view === id}
                aria-controls="drawn"
                className={`btn ${view === id ? '' : 'border-transparent text-quiet underline decoration-1 underline-offset-4'}`}
                onClick={() => setView(id)}
              >
                {label}
              </button>
            ))}
          </div>
        ) : null}
        <div id="drawn" className="mt-4" {...(trend ? { role: 'tabpanel', 'aria-labelledby': `tab-${view}` } : {})}>
          {shown?.shape === 'rungs' && !factor ? (
            <Ladder study={study} seen={seen} />
          ) : shown?.shape === 'survival' ? (
            <Shares study={study} seen={seen} response={of} />
          ) : view === 'against' && trend ? (
            <Against study={study} seen={seen} trend={trend} analysis={a} response={of} />
          ) : (
            <Tape
              roomy
              levels={levels}
              unit={unit}
              caption={`Each level on the tape. ${a.levels.map((l) => `${String(l.level)}: mean ${l.quoted ?? 'none'}, ${l.n_kept} kept, ${l.n_void} void`).join('; ')}.`}
            />
          )}
        </div>
        {shown?.shape === 'number' || factor ? (
          <Legend flag={flagWord(study)} />
        ) : shown?.shape === 'rungs' ? (
          <p className="m-0 mt-2 text-[0.92rem] text-quiet">
            Each column is one specimen. Solid: survived; open and struck: failed; the bracket lies between the last rung passed and the first failed; an arrow
            up: at least the top rung.
          </p>
        ) : null}
        <h2 className="mb-2 mt-8 text-[1.5rem]">The numbers</h2>
        {a.effect.kind === 'survival' ? (
          <Survived a={a} study={study} />
        ) : (
          <Numbers a={a} study={study} first={first} onHow={(h) => setHow({ ...h, response: of })} factor={factor} />
        )}
        {factor ? null : <EffectNumbers a={a} study={study} first={first} onHow={(h) => setHow({ ...h, response: of })} />}
        {shown?.derived && !factor ? <WorkedTrials study={study} seen={seen} response={of} name={shown.name} onHow={setHow} /> : null}
        <BesidePart study={study} beside={beside} />
        {factor ? null : <WhatIf study={study} response={of} />}
      </div>
      <aside className="mt-8 self-start border-l-[8px] border-tape pl-6 md:mt-0 print:mt-5 print:break-inside-avoid" aria-label="Doubts and what to do next">
        <h2 className="m-0 text-[1.5rem]">What limits it</h2>
        {a.audit.length ? (
          <ul className="m-0 list-none p-0">
            {a.audit.map((f) => (
              <li key={f.code} className="border-b border-hair py-3" data-finding={f.code}>
                <p className="m-0">
                  <strong>{WEIGHT[f.severity]}.</strong> {f.says}
                </p>
                <p className="m-0 mt-1 text-quiet">{f.do}</p>
                {f.act ? <ActControl act={f.act} study={study} /> : null}
              </li>
            ))}
          </ul>
        ) : (
          <p>
            {a.audit_checked.length
              ? `Nothing was found. Checked: ${a.audit_checked.map((c) => CHECKED[c] ?? c.replaceAll('_', ' ')).join(', ')}.`
              : 'Nothing can be checked before there are trials.'}
          </p>
        )}
        <Within study={study} />
        <h2 className="mb-0 mt-7 text-[1.5rem]">Next</h2>
        <p className="mt-2 text-[1.1rem]">{a.verdict.next}</p>
        <Out study={study} />
      </aside>
      <How asked={how} study={study} onClose={() => setHow(null)} />
    </div>
  )
}

const CHECKED: Record<string, string> = {
  single_trial: 'a level with one trial',
  few_repeats: 'too few repeats',
  unequal_repeats: 'unequal repeats',
  voids_pile_up: 'voids at one level',
  all_estimated: 'readings all estimated',
  censored: 'readings off the tape',
  drift_with_order: 'drift with the order of trials',
  more_than_one_change: 'two things changed at once',
  control_not_held: 'things meant to stay the same',
  person_mixed_with_level: 'one person to a level',
  order_mixed_with_level: 'one level after the other',
  estimated_mixed_with_measured: 'estimates among measured readings',
  resolution_too_coarse: 'too coarse a tool',
  reaction_dominates: 'a thumb’s reaction',
  payload_mixed: 'different payloads',
  payload_reused: 'payloads used again',
  spread_unequal: 'unequal spreads',
  odd_reading: 'odd readings',
  prediction_missing: 'a missing prediction',
  measuring_rule_missing: 'a missing measuring rule',
  instrument_not_reset: 'meters not reset',
  column_explains_scatter: 'a column that explains the scatter',
  judging_changed: 'a way of judging chosen afterwards',
  timers_apart: 'timers that do not agree',
  not_planned: 'a comparison that was not planned',
}

function Legend({ flag }: { flag: string }) {
  return (
    <p className="m-0 mt-2 flex flex-wrap gap-x-6 gap-y-1 text-[0.92rem] text-quiet">
      <span>solid: as read</span>
      <span>open with arrow: at least</span>
      <span>soft: estimate</span>
      <span>crossed ring: void, not in the mean</span>
      <span>flag: {flag}</span>
      <span>bracket: range</span>
    </p>
  )
}
