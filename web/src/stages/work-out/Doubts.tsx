import { counted } from '../../parts/counted'
import { useState } from 'react'
import type { Analysis, Study } from '../../data/api'
import { ActControl } from './Acts'
import { CHECKED } from '../../planning/choices.gen'
import { glued } from '../../parts/glue'

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
            {counted(a.audit_checked.length, 'check')} found nothing
          </button>
        ) : null}
      </p>
      {clean ? <p className="m-0 text-quiet">{a.audit_checked.map((c) => CHECKED[c as keyof typeof CHECKED] ?? c.replaceAll('_', ' ')).join(', ')}.</p> : null}
    </>
  )
}

/** One doubt in a sentence; what to do about it opens under it. */
function Doubt({ f, study }: { f: Analysis['audit'][number]; study: Study }) {
  const [open, setOpen] = useState(f.severity === 'stop')
  return (
    <>
      <p className="m-0 leading-snug">
        <strong>{WEIGHT[f.severity]}.</strong> {glued(f.says)}{' '}
        <button
          type="button"
          className="no-print inline min-h-[24px] max-md:inline-flex max-md:min-h-[44px] max-md:items-center border-0 bg-transparent p-0 font-semibold text-ink underline underline-offset-4"
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
