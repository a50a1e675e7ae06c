import { useState } from 'react'
import type { Analysis, Study } from '../../data/api'
import { ActControl } from './Acts'

const WEIGHT = { stop: 'Stop', warn: 'Doubt', note: 'Note' } as const
const HEAVY = { stop: 0, warn: 1, note: 2 } as const
/** So many doubts stand beside a verdict; the others are one press away. */
const SHOWN = 3

/** What limits the claim: the heaviest doubts first, each with what to do; and what was looked at and found clean, in one line. */
export function Doubts({ a, study }: { a: Analysis; study: Study }) {
  const [all, setAll] = useState(false)
  const [clean, setClean] = useState(false)
  const found = [...a.audit].sort((one, two) => HEAVY[one.severity] - HEAVY[two.severity])
  const more = found.length - SHOWN
  return (
    <>
      <h2 className="m-0 text-[1.4rem]">What limits it</h2>
      {found.length ? (
        <ul className="m-0 list-none p-0" data-doubts>
          {found.map((f, i) => (
            <li key={f.code} className={`border-b border-hair py-2 ${i >= SHOWN && !all ? 'hidden print:block' : ''}`} data-finding={f.code}>
              <Doubt f={f} study={study} />
            </li>
          ))}
        </ul>
      ) : (
        <p className="m-0 mt-1">{a.audit_checked.length ? 'Nothing was found.' : 'Nothing can be checked before there are trials.'}</p>
      )}
      <p className="m-0 flex flex-wrap gap-x-5">
        {more > 0 ? (
          <button type="button" className="btn btn-plain no-print px-0" aria-expanded={all} onClick={() => setAll(!all)}>
            {all ? 'Only the heaviest' : more === 1 ? 'One more' : `${more} more`}
          </button>
        ) : null}
        {a.audit_checked.length ? (
          <button type="button" className="btn btn-plain no-print px-0" aria-expanded={clean} onClick={() => setClean(!clean)}>
            Checked and clean: {a.audit_checked.length}
          </button>
        ) : null}
      </p>
      {clean ? <p className="m-0 text-quiet">{a.audit_checked.map((c) => CHECKED[c] ?? c.replaceAll('_', ' ')).join(', ')}.</p> : null}
    </>
  )
}

/** One doubt in a sentence; what to do about it opens under it. */
function Doubt({ f, study }: { f: Analysis['audit'][number]; study: Study }) {
  const [open, setOpen] = useState(f.severity === 'stop')
  return (
    <>
      <p className="m-0 leading-snug">
        <strong>{WEIGHT[f.severity]}.</strong> {f.says}{' '}
        <button
          type="button"
          className="no-print inline min-h-[24px] border-0 bg-transparent p-0 font-semibold text-ink underline underline-offset-4"
          aria-expanded={open}
          aria-label={`What to do about it: ${f.says}`}
          onClick={() => setOpen(!open)}
        >
          What to do
        </button>
      </p>
      <div className={open ? '' : 'hidden print:block'}>
        <p className="m-0 mt-1 text-quiet">{f.do}</p>
        {f.act ? <ActControl act={f.act} study={study} /> : null}
      </div>
    </>
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
