import { counted } from '../../parts/counted'
import { useState } from 'react'
import { v4 as uuid } from 'uuid'
import type { NotHeld, Study } from '../../data/api'
import { local } from '../../data/keep'
import { deviceClock } from '../../machines/deviceClock'
import { queue } from '../../machines/saveQueue'
import { Fold } from '../../parts/Fold'
import { glued } from '../../parts/glue'
import { Field, Says } from '../../parts/parts'
import { NowFields, notHeld, settled } from './NowSheet'
import { asPlanned, type Now, useNow } from './useNow'

/** Under this name the browser remembers who opened the last run. */
const ADULT = 'adult'

/** The browser is asked not to clear what waits here when its disk gets full; where it says no, or cannot, nothing changes. */
const keptForGood = (): Promise<boolean> => navigator.storage?.persist?.().catch(() => false) ?? Promise.resolve(false)

/** Before the first trial of a run, and again when what was signed off has changed: the adult in charge ticks the cautions. */
export function Cautions({ study }: { study: Study }) {
  // in one lesson only what is new is ticked again: lines that were read stand ticked, what has changed has a line of its own
  const lately = study.run && !study.run.covers && deviceClock.serverNow() < Date.parse(study.run.open_until) ? study.run.cautions : []
  const [marked, setTicked] = useState<string[]>([...lately])
  const [changeRead, setChangeRead] = useState(lately.length === 0)
  const ticked = marked.filter((c) => study.cautions.includes(c))
  // whoever opened the last run: read, and changed where it is somebody else now
  const [written, setAdult] = useState<string | null>(null)
  const adult = written ?? (study.run?.adult || local.get(ADULT) || 'class teacher')
  const left = study.cautions.length - ticked.length + (changeRead ? 0 : 1)
  const { now, setNow } = useNow(study)
  const [form, setForm] = useState(() => asPlanned(study, now))
  const [off, setOff] = useState<{ of: Now; found: NotHeld[] } | null>(null)
  const told = off && off.of === form ? off.found : []
  const open = async () => {
    const found = told.length ? [] : await notHeld(study, form)
    if (found.length) {
      setOff({ of: form, found })
      return
    }
    setNow(settled(form))
    void keptForGood()
    local.set(ADULT, adult.trim())
    const id = uuid()
    void queue.add({ kind: 'run', studyId: study.id, title: study.title, id, body: { id, adult: adult.trim(), cautions: ticked, mark: study.safety_mark } })
  }
  return (
    <form
      className="mx-auto w-full max-w-[46rem] px-4 py-8"
      onSubmit={(e) => {
        e.preventDefault()
        if (left === 0 && adult.trim()) void open()
      }}
    >
      <h1 className="m-0 text-[2.8rem]">{study.kept || study.run ? 'Before the next trial' : 'Before the first trial'}</h1>
      {study.run && !study.run.covers ? (
        <p className="m-0 mt-2 text-[1.1rem] font-semibold text-doubt" data-lapsed>
          Levels, limits, drops or adults have changed since the run was opened by {study.run.adult}. It is read and opened again.
        </p>
      ) : null}
      <p className="text-[1.1rem]">
        The adult in charge reads and ticks each line. Your school’s own risk assessment, local rules and qualified staff decide; this list does not replace
        them.
      </p>
      {study.limits_said.length ? (
        <p className="text-[1.15rem]">
          Your limits: <strong>{glued(study.limits_said.join('; '))}</strong>.
        </p>
      ) : null}
      <ul className="m-0 mt-6 list-none p-0">
        {lately.length ? (
          <li className="hair">
            <label className="flex min-h-[72px] cursor-pointer items-center gap-5 py-3 text-[1.15rem] font-semibold">
              <input type="checkbox" className="h-8 w-8 shrink-0 accent-[var(--act)]" checked={changeRead} onChange={(e) => setChangeRead(e.target.checked)} />
              The changed levels, limits, drops or adults are read.
            </label>
          </li>
        ) : null}
        {study.cautions.map((c) => (
          <li key={c} className="hair">
            <label className="flex min-h-[72px] cursor-pointer items-center gap-5 py-3 text-[1.15rem]">
              <input
                type="checkbox"
                className="h-8 w-8 shrink-0 accent-[var(--act)]"
                checked={ticked.includes(c)}
                onChange={(e) => setTicked(e.target.checked ? [...ticked, c] : ticked.filter((x) => x !== c))}
              />
              {c}
            </label>
          </li>
        ))}
      </ul>
      {left > 1 ? (
        <button
          type="button"
          className="btn mt-3 min-h-[56px]"
          onClick={() => {
            setTicked([...study.cautions])
            setChangeRead(true)
          }}
        >
          All {left} are read: tick them
        </button>
      ) : null}
      <div className="hair mt-4 pt-5">
        <Field label="Adult in charge, by role" hint="No names are needed: “class teacher”, “technician”.">
          {(p) => (
            <input {...p} className="field max-w-md text-[1.15rem]" value={adult} placeholder="class teacher" onChange={(e) => setAdult(e.target.value)} />
          )}
        </Field>
      </div>
      <div className="mt-8">
        <Fold n="" title="Conditions now" says={standing(form)} missing={told.length > 0}>
          <div className="grid max-w-md gap-4">
            <p className="m-0 text-quiet">Every trial carries this. At the lane it is changed by N when something changes.</p>
            <NowFields study={study} now={form} onNow={setForm} />
          </div>
        </Fold>
      </div>
      {told.length ? (
        <div role="alert" className="mt-4 grid gap-1">
          {told.map((n) => (
            <Says key={n.name}>{n.says}</Says>
          ))}
        </div>
      ) : null}
      <button type="submit" className="btn btn-act mt-6 min-h-[72px] w-full text-[1.3rem] md:w-auto md:px-12" disabled={left > 0 || !adult.trim()}>
        {left > 0 ? `${counted(left, 'line')} still to tick` : adult.trim() ? 'Open the run' : 'Write who is in charge'}
      </button>
    </form>
  )
}

/** What is held, in one line. */
const standing = (now: Now): string =>
  [now.person && `released by ${now.person}`, ...Object.entries(now.conditions).map(([name, how]) => (how ? `${name}: ${how}` : ''))]
    .filter(Boolean)
    .join('; ') || 'who releases is not said'
