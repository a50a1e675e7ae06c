import { useState } from 'react'
import type { Ahead, Draft, Held, Study } from '../data/api'
import { Line, Sheet } from '../parts/parts'
import type { Where } from './problems'
import { same } from './choose'

const BLANK: Held = { name: '', value: '', tolerance: '', how: '' }

/** What is kept the same: by itself everything on the wall that is not changed, each with how it is held. */
export function KeptSameList({
  draft,
  change,
  ahead,
  at,
  study,
}: {
  draft: Draft
  change: (p: Partial<Draft>) => void
  ahead: Ahead | undefined
  at: Where
  study: Study
}) {
  const [editing, setEditing] = useState('')
  const hold = draft.hold ?? []
  const names = ahead?.kept_same ?? []
  const index = hold.findIndex((h) => same(h.name ?? '', editing))
  const held = hold[index] ?? { ...BLANK, name: editing }
  const set = (part: Partial<Held>) => change({ hold: index < 0 ? [...hold, { ...held, ...part }] : hold.map((h, i) => (i === index ? { ...h, ...part } : h)) })
  const says = index < 0 ? undefined : (at(`hold.${index}`) ?? study.problems.find((p) => p.where === `hold.${index}`)?.says)
  if (!names.length) return null
  return (
    <section aria-label="Kept the same" className="mt-10">
      <h2 className="m-0 border-t-2 border-ink pt-3 text-[2rem]">Kept the same</h2>
      <ul className="m-0 mt-2 grid list-none gap-x-12 p-0 md:grid-cols-2">
        {names.map((k) => (
          <li key={k.name} className="hair flex min-h-[56px] items-center gap-4 py-1 print:min-h-0">
            <span className="grow text-[1.25rem]">
              {k.name}
              {k.how ? <span className="ml-3 text-[1rem] text-quiet">{k.how}</span> : null}
            </span>
            <button type="button" className="btn btn-plain shrink-0" aria-label={`${k.how ? 'Change' : 'How?'} ${k.name}`} onClick={() => setEditing(k.name)}>
              {k.how ? 'Change' : 'How?'}
            </button>
          </li>
        ))}
      </ul>
      <Sheet open={editing !== ''} onClose={() => setEditing('')} title={`How is ${editing} kept the same?`}>
        <div className="grid gap-5">
          <div className="grid grid-cols-2 gap-6">
            <Line label="Kept at" value={held.value ?? ''} placeholder="4.2 m" onChange={(value) => set({ value })} />
            <Line label="to within" value={held.tolerance ?? ''} placeholder="5 cm" says={says} onChange={(tolerance) => set({ tolerance })} />
          </div>
          <Line
            label="Or in a sentence"
            rows={2}
            value={held.how ?? ''}
            placeholder="The same person pulls to the mark and lets go"
            onChange={(how) => set({ how })}
          />
          <button type="button" className="btn btn-act justify-self-start" onClick={() => setEditing('')}>
            Done
          </button>
        </div>
      </Sheet>
    </section>
  )
}
