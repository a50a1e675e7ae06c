import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { api, ask, type Analysis, type LevelSummary, Refusal, type Study, type Trial } from '../../data/api'
import { client, useAnalysis, useStudy, useTrials } from '../../data/queries'
import { Frame } from '../../parts/Frame'
import { Says, Shape, Skeleton, Trouble } from '../../parts/parts'
import { Tape } from '../../tape/Tape'
import { levelIndex } from '../run/Lane'
import { flagOf, flagWord, tapeLevels } from '../run/marks'
import { useTrialsSeen } from '../run/useTrialsSeen'
import { Against } from './Against'
import { How, type HowAsked } from './How'
import { EffectNumbers } from './EffectNumbers'

export function WorkOut() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const trials = useTrials(id)
  const analysis = useAnalysis(id)
  if (study.isError || trials.isError) return <Trouble error={study.error ?? trials.error} again={() => void Promise.all([study.refetch(), trials.refetch()])} />
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
        <Worked study={study.data} trials={trials.data} a={analysis.data} />
      )}
    </Frame>
  )
}

const ANSWER = { clear: 'Clear', leaning: 'Leaning, not settled', cannot_tell: 'Cannot tell yet' } as const
const WEIGHT = { stop: 'Stop', warn: 'Doubt', note: 'Note' } as const

/** The headline with its size underlined by a strip of tape. */
function Headline({ a }: { a: Analysis }) {
  const { says, size } = a.verdict
  const at = size ? says.indexOf(size) : -1
  if (!size || at < 0) return <>{says}</>
  return (
    <>
      {says.slice(0, at)}
      <span className="mark-line">{size}</span>
      {says.slice(at + size.length)}
    </>
  )
}

function Worked({ study, trials, a }: { study: Study; trials: Trial[]; a: Analysis }) {
  const seen = useTrialsSeen(study.id, trials)
  const [view, setView] = useState<'levels' | 'against'>('levels')
  const [how, setHow] = useState<HowAsked | null>(null)
  const first = study.draft.reading_level === 'first'
  const unit = study.draft.measure.unit ?? ''
  const levels = tapeLevels(study, seen).map((l, i) => {
    const s = a.levels.find((x) => levelIndex(study, x.level) === i)
    return s && s.n_kept > 0 ? { ...l, ...flagOf(s, study), low: s.min, high: s.max } : l
  })
  const trend = a.effect.kind === 'trend' ? a.effect.trend : null
  const waiting = seen.filter((t) => t.saved !== 'yes').length
  const short = a.verdict.says.length < 70
  return (
    <div className="grid w-full grid-cols-[minmax(0,1fr)] gap-x-10 px-4 py-6 md:grid-cols-[minmax(0,1fr)_22rem] md:px-8">
      <div className="min-w-0">
        <p className="m-0 flex items-center gap-3 font-semibold">
          <span className={`inline-block border-2 border-ink px-3 py-0.5 ${a.verdict.answer === 'clear' ? 'bg-ink text-floor' : a.verdict.answer === 'leaning' ? 'border-dashed' : ''}`}>{ANSWER[a.verdict.answer]}</span>
          <span className="text-quiet">{study.draft.question}</span>
        </p>
        <h1 className={`m-0 mt-3 max-w-[60rem] ${short ? 'text-[2.6rem]' : 'text-[2.3rem]'} max-md:text-[1.8rem]`}>
          <Headline a={a} />
        </h1>
        {a.verdict.detail ? <p className="m-0 mt-3 max-w-[56rem] text-[1.05rem] text-quiet">{a.verdict.detail}</p> : null}
        {a.verdict.prediction ? <p className="m-0 mt-1 text-[1.05rem]">{a.verdict.prediction}</p> : null}
        {waiting ? <Says>{waiting} trials in this browser are not in this verdict yet; they wait to be sent.</Says> : null}
        {trend ? (
          <div role="tablist" aria-label="How the trials are drawn" className="no-print mt-5 flex gap-2">
            {(
              [
                ['levels', 'Level by level'],
                ['against', `Against ${study.draft.variable.name}`],
              ] as const
            ).map(([id, label]) => (
              <button key={id} id={`tab-${id}`} type="button" role="tab" aria-selected={view === id} aria-controls="drawn" className={`btn ${view === id ? '' : 'border-transparent text-quiet underline decoration-1 underline-offset-4'}`} onClick={() => setView(id)}>
                {label}
              </button>
            ))}
          </div>
        ) : null}
        <div id="drawn" className="mt-4" {...(trend ? { role: 'tabpanel', 'aria-labelledby': `tab-${view}` } : {})}>
          {view === 'against' && trend ? (
            <Against study={study} seen={seen} trend={trend} analysis={a} />
          ) : (
            <Tape roomy levels={levels} unit={unit} caption={`Each level on the tape. ${a.levels.map((l) => `${String(l.level)}: mean ${l.quoted ?? 'none'}, ${l.n_kept} kept, ${l.n_void} void`).join('; ')}.`} />
          )}
        </div>
        <Legend flag={flagWord(study)} />
        <h2 className="mb-2 mt-8 text-[1.5rem]">The numbers</h2>
        <Numbers a={a} study={study} first={first} onHow={setHow} />
        <EffectNumbers a={a} study={study} first={first} onHow={setHow} />
      </div>
      <aside className="mt-8 self-start border-l-[8px] border-tape pl-6 md:mt-0" aria-label="Doubts and what to do next">
        <h2 className="m-0 text-[1.5rem]">What limits it</h2>
        {a.audit.length ? (
          <ul className="m-0 list-none p-0">
            {a.audit.map((f) => (
              <li key={f.code} className="border-b border-hair py-3" data-finding={f.code}>
                <p className="m-0">
                  <strong>{WEIGHT[f.severity]}.</strong> {f.says}
                </p>
                <p className="m-0 mt-1 text-quiet">{f.do}</p>
              </li>
            ))}
          </ul>
        ) : (
          <p>Nothing was found. Checked: {a.audit_checked.map((c) => CHECKED[c] ?? c.replaceAll('_', ' ')).join(', ')}.</p>
        )}
        <h2 className="mb-0 mt-7 text-[1.5rem]">Next</h2>
        <p className="mt-2 text-[1.1rem]">{a.verdict.next}</p>
        <Out study={study} />
      </aside>
      <How asked={how} study={study} onClose={() => setHow(null)} />
    </div>
  )
}

const CHECKED: Record<string, string> = {
  single_trial: 'a level with one trial', few_repeats: 'too few repeats', unequal_repeats: 'unequal repeats', voids_pile_up: 'voids at one level',
  censored: 'readings off the tape', drift_with_order: 'drift with the order of trials', more_than_one_change: 'two things changed at once',
  control_not_held: 'things meant to stay the same', person_mixed_with_level: 'one person to a level', order_mixed_with_level: 'one level after the other',
  estimated_mixed_with_measured: 'estimates among measured readings', resolution_too_coarse: 'too coarse a tool', reaction_dominates: 'a thumb’s reaction',
  payload_mixed: 'different payloads', payload_reused: 'payloads used again', spread_unequal: 'unequal spreads', odd_reading: 'odd readings',
  prediction_missing: 'a missing prediction', measuring_rule_missing: 'a missing measuring rule', instrument_not_reset: 'meters not reset',
  column_explains_scatter: 'a column that explains the scatter', judging_changed: 'a way of judging chosen afterwards',
}

function Legend({ flag }: { flag: string }) {
  return (
    <p className="m-0 mt-2 flex flex-wrap gap-x-6 gap-y-1 text-[0.92rem] text-quiet">
      <span>solid: as read</span>
      <span>open with arrow: at least</span>
      <span>soft: estimate</span>
      <span>crossed ring: void, counts for nothing</span>
      <span>flag: {flag}</span>
      <span>bracket: range</span>
    </p>
  )
}

/** Pads a column of numbers so that they stand in line by the decimal mark. */
function inLine(cells: string[]): string[] {
  const places = cells.map((c) => /\.(\d+)$/.exec(c)?.[1]?.length ?? 0)
  const most = Math.max(0, ...places)
  return cells.map((c, i) => (/\d$/.test(c) ? c + (places[i] ? '' : most ? '\u2008' : '') + '\u2007'.repeat(most - (places[i] ?? 0)) : c))
}

export const plain = (v: number | null | undefined, digits = 4): string => (v === null || v === undefined ? '–' : Number(v.toPrecision(digits)).toString().replace('-', '−'))

/** A column in which every number has the same places: those that its finest number needs for so many digits. */
function alike(levels: readonly LevelSummary[], of: (s: LevelSummary) => readonly (number | null | undefined)[], digits: number): (s: LevelSummary) => string {
  const all = levels.flatMap((s) => of(s)).filter((v): v is number => v != null && v !== 0)
  const places = Math.min(6, Math.max(0, ...all.map((v) => /\.(\d+)$/.exec(Number(v.toPrecision(digits)).toString())?.[1]?.length ?? 0)))
  return (s) => of(s).map((v) => (v == null ? '–' : v.toFixed(places).replace('-', '−'))).join(' to ')
}

function Numbers({ a, study, first, onHow }: { a: Analysis; study: Study; first: boolean; onHow: (h: HowAsked) => void }) {
  const unit = study.draft.measure.unit
  const columns: [string, (s: LevelSummary) => string][] = [
    ['n', (s) => String(s.n_kept)],
    ['void', (s) => String(s.n_void)],
    [`mean / ${unit}`, (s) => s.quoted?.replace(` ${unit}`, '') ?? '–'],
    ['median', alike(a.levels, (s) => [s.median], 4)],
    ...(flagWord(study) === 'best' || study.draft.result === 'total' ? ([[study.draft.result ?? '', (s) => s.result_quoted?.replace(` ${unit}`, '') ?? '–']] as [string, (s: LevelSummary) => string][]) : []),
    ['± half range', alike(a.levels, (s) => [s.half_range], 3)],
    ...(first ? [] : ([['SD', alike(a.levels, (s) => [s.sd], 3)], ['95 % interval', alike(a.levels, (s) => s.ci95 ?? [null], 4)]] as [string, (s: LevelSummary) => string][])),
  ]
  const cells = columns.map(([, cell]) => inLine(a.levels.map(cell)))
  return (
    <div className="relative overflow-x-auto" tabIndex={0} role="region" aria-label="The numbers for each level">
      <table className="num w-full min-w-[34rem] border-collapse text-right">
        <thead>
          <tr className="text-[0.92rem] text-quiet">
            <th scope="col" className="py-1 text-left font-normal">
              {study.draft.variable.name}
            </th>
            {columns.map(([name]) => (
              <th key={name} scope="col" className="py-1 pl-4 font-normal">
                {name}
              </th>
            ))}
            <th scope="col" className="no-print font-normal">
              <span className="sr-only">working</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {a.levels.map((s, row) => {
            const i = levelIndex(study, s.level)
            return (
              <tr key={String(s.level)} className="border-t border-hair">
                <th scope="row" className="py-2 text-left">
                  <Shape n={i} size={14} /> {study.levels[i]?.label ?? s.level}
                </th>
                {columns.map(([name], c) => (
                  <td key={name} className="py-2 pl-4 whitespace-nowrap">
                    {cells[c]?.[row]}
                  </td>
                ))}
                <td className="no-print w-16">
                  {s.n_kept ? (
                    <button type="button" className="btn btn-plain min-h-[44px]" aria-label={`How was the mean at ${study.levels[i]?.label} worked out?`} onClick={() => onHow({ about: 'mean', first: study.levels[i]?.text ?? '' })}>
                      How?
                    </button>
                  ) : null}
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
    </div>
  )
}

function Out({ study }: { study: Study }) {
  const [says, setSays] = useState('')
  const finish = async () => {
    try {
      const body = { version: study.version, finished: !study.finished } as never
      client.setQueryData(['study', study.id], await ask(api.PATCH('/api/studies/{study_id}', { params: { path: { study_id: study.id } }, body })))
      void client.invalidateQueries({ queryKey: ['home'] })
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <div className="no-print mt-6 grid gap-3">
      <a className="btn" href={`/api/studies/${study.id}/trials.csv`} download>
        Trial table (CSV)
      </a>
      <button type="button" className="btn" onClick={() => window.print()}>
        Print
      </button>
      <button type="button" className="btn" onClick={() => void finish()}>
        {study.finished ? 'Open it again' : 'Mark as finished'}
      </button>
      {says ? <Says>{says}</Says> : null}
    </div>
  )
}
