import { useState } from 'react'
import { v4 as uuid } from 'uuid'
import type { Family, Study } from '../../data/api'
import { queue } from '../../machines/saveQueue'
import { Field } from '../../parts/parts'

/** Before the first trial of a run: the adult in charge ticks the family's cautions. */
export function Cautions({ study, family, onOpen }: { study: Study; family: Family; onOpen: () => void }) {
  const [ticked, setTicked] = useState<string[]>([])
  const [adult, setAdult] = useState('')
  const left = family.cautions.length - ticked.length
  const open = () => {
    const id = uuid()
    void queue.add({ kind: 'run', studyId: study.id, id, body: { id, adult: adult.trim(), cautions: ticked } })
    onOpen()
  }
  return (
    <form
      className="mx-auto w-full max-w-[46rem] px-4 py-8"
      onSubmit={(e) => {
        e.preventDefault()
        if (left === 0 && adult.trim()) open()
      }}
    >
      <h1 className="m-0 text-[2.8rem]">Before the first trial</h1>
      <p className="text-[1.1rem]">The adult in charge reads and ticks each line. Your school’s own risk assessment, local rules and qualified staff decide; this list does not replace them.</p>
      <ul className="m-0 mt-6 list-none p-0">
        {family.cautions.map((c) => (
          <li key={c} className="hair">
            <label className="flex min-h-[72px] cursor-pointer items-center gap-5 py-3 text-[1.15rem]">
              <input type="checkbox" className="h-8 w-8 shrink-0 accent-[var(--act)]" checked={ticked.includes(c)} onChange={(e) => setTicked(e.target.checked ? [...ticked, c] : ticked.filter((x) => x !== c))} />
              {c}
            </label>
          </li>
        ))}
      </ul>
      <div className="hair mt-0 pt-5">
        <Field label="Adult in charge, by role" hint="No names are needed: “class teacher”, “technician”.">
          {(p) => <input {...p} className="field max-w-md text-[1.15rem]" value={adult} placeholder="class teacher" onChange={(e) => setAdult(e.target.value)} />}
        </Field>
      </div>
      <button type="submit" className="btn btn-act mt-6 min-h-[72px] w-full text-[1.3rem] md:w-auto md:px-12" disabled={left > 0 || !adult.trim()}>
        {left > 0 ? `${left} line${left === 1 ? '' : 's'} still to tick` : adult.trim() ? 'Open the run' : 'Write who is in charge'}
      </button>
    </form>
  )
}
