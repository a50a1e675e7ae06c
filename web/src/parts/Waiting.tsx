import { counted as many } from './counted'
import { useState } from 'react'
import type { TrialBody, VersionBody } from '../data/api'
import type { Waiting } from '../data/keep'
import { anew, useMe } from '../data/queries'
import { useQueue } from '../data/useQueue'
import { saveWaiting, takeWaiting, waitingFile } from '../data/waitingFile'
import { queue } from '../machines/saveQueue'
import { Says, Sheet } from './parts'

/** What waits, line by line. */
export function WaitingSheet({ onClose }: { onClose: () => void }) {
  const { waiting, sending, holds, says } = useQueue()
  const lost = [...new Set(waiting.filter((w) => w.code === 'not_found').map((w) => w.studyId))]
  return (
    <Sheet open onClose={onClose} title="Waiting to send" wide>
      {waiting.length ? (
        <>
          <p>
            {says ||
              (sending === 'away'
                ? `The server cannot be reached. These are ${holds === 'nothing' ? 'only in this open page' : 'safe in this browser'} and are sent by themselves.`
                : sending === 'signed_out'
                  ? 'The sign-in has run out. Sign in again in this browser and these are sent.'
                  : 'These are not on the server yet.')}
          </p>
          {lost.map((id) => (
            <Lost key={id} writes={waiting.filter((w) => w.studyId === id)} />
          ))}
          <ul className="m-0 list-none p-0">
            {waiting
              .filter((w) => !lost.includes(w.studyId))
              .map((w) => (
                <WaitingLine key={w.seq ?? w.id} w={w} />
              ))}
          </ul>
          <div className="mt-4 flex flex-wrap gap-3">
            <button type="button" className="btn" onClick={() => void queue.flush()}>
              Send now
            </button>
            <SaveAsFile writes={waiting} all />
          </div>
        </>
      ) : null}
      <Leftover />
    </Sheet>
  )
}

/** all: everything that is shown, not one line of it. */
function SaveAsFile({ writes, all = false }: { writes: readonly Waiting[]; all?: boolean }) {
  return (
    <button type="button" className={`btn ${all ? '' : 'btn-plain'}`} onClick={() => void saveWaiting(writes)}>
      {all ? 'Save all as a file' : 'Save as a file'}
    </button>
  )
}

/** Writes for a study that the server does not have any more: a new one is made of them and of the plan that this browser still has. */
function Lost({ writes }: { writes: readonly Waiting[] }) {
  const [says, setSays] = useState('')
  const [busy, setBusy] = useState(false)
  const title = writes.find((w) => w.title)?.title ?? 'A study'
  const make = async () => {
    setBusy(true)
    try {
      const [came] = await takeWaiting(await waitingFile(writes))
      if (!came?.made && !came?.kept) return setSays(came?.refused.join(' ') || 'Nothing could be taken.')
      for (const w of writes) await queue.drop(w)
      void anew(['home'])
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    } finally {
      setBusy(false)
    }
  }
  return (
    <section className="hair grid gap-2 py-3" data-lost aria-label={title}>
      <p className="m-0">
        <strong>{title}</strong>: {counted(writes)} for a study that is not on the server any more.
      </p>
      <div className="flex flex-wrap gap-2">
        <button type="button" className="btn btn-act" disabled={busy} onClick={() => void make()}>
          Make it a new study
        </button>
        <SaveAsFile writes={writes} />
      </div>
      {says ? <Says>{says}</Says> : null}
    </section>
  )
}

/** How much of what waits, without a reading of it. */
export function counted(writes: readonly Waiting[]): string {
  const of = (kind: Waiting['kind']) => writes.filter((w) => w.kind === kind).length
  const parts = [
    of('trial') ? many(of('trial'), 'trial') : '',
    of('version') ? many(of('version'), 'version') : '',
    of('photo') ? many(of('photo'), 'photo') : '',
    of('seen') ? many(of('seen'), 'track') : '',
    of('run') ? 'the opening of a run' : '',
  ].filter(Boolean)
  return parts.length > 1 ? `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}` : (parts[0] ?? 'nothing')
}

/** What another's sign-in left in this browser: told to whoever opens Bendro next, sent by a colleague of the same school, or taken along. */
export function Leftover() {
  const { others } = useQueue()
  const me = useMe().data
  if (!others.length) return null
  const groups = [...new Map(others.map((w) => [`${w.who}/${w.studyId}`, others.filter((o) => o.who === w.who && o.studyId === w.studyId)])).values()]
  return (
    <section aria-label="Waiting in this browser" className="hair mt-8 pt-4" data-leftover>
      <h2 className="m-0 text-[1.3rem]">Waiting in this browser</h2>
      <p className="m-0 text-quiet">Kept in another sign-in and not on the server yet.</p>
      <ul className="m-0 list-none p-0">
        {groups.map((writes) => {
          const first = writes[0] as Waiting
          const mine = me?.signed_in && first.school !== undefined && first.school === me.school
          // another school's titles are not this reader's business once somebody is signed in
          const named = mine || !me?.signed_in
          return (
            <li key={`${first.who}/${first.studyId}`} className="hair flex flex-wrap items-center gap-x-4 gap-y-1 py-2">
              <span className="grow">
                {counted(writes)}
                {named && first.title ? ` of “${first.title}”` : ''}
                {first.by && named ? `, kept by ${first.by}` : ''}
                {mine ? '' : me?.signed_in ? ', of another school' : ''}
              </span>
              {mine ? (
                <button type="button" className="btn" onClick={() => void queue.adopt(writes)}>
                  Send them
                </button>
              ) : null}
              <SaveAsFile writes={writes} />
            </li>
          )
        })}
      </ul>
      {me?.signed_in ? null : <p className="m-0 text-quiet">Sign in as the same teacher, or as a colleague of the same school, and they can be sent.</p>}
    </section>
  )
}

/** What is written first for a trial. */
const said = (body: TrialBody): string => body.readings?.[0]?.texts?.[0] ?? ''

function WaitingLine({ w }: { w: Waiting }) {
  const body = w.body as TrialBody
  const [text, setText] = useState(w.kind === 'trial' ? said(body) : '')
  if (w.kind === 'run') return <li className="hair py-3">The opening of the run{w.refused ? <Refused w={w} /> : null}</li>
  if (w.kind === 'seen') return <li className="hair py-3">What was followed or felt at a trial{w.refused ? <Refused w={w} /> : null}</li>
  if (w.kind === 'version' || w.kind === 'photo')
    return (
      <li className="hair py-3">
        {w.kind === 'version' ? `A version of ${(w.body as VersionBody).device}` : 'A photo of a version'}
        {w.refused ? <Refused w={w} /> : null}
      </li>
    )
  const again = (change: Partial<TrialBody>) => void queue.mend(w, { ...body, ...change })
  return (
    <li className="hair grid gap-2 py-3">
      <span>
        <strong>{body.level}</strong>, {body.group}: “{(body.readings?.[0]?.texts ?? []).join('”, “')}” {body.state === 'void' ? `void, ${body.fault}` : ''}
      </span>
      {w.refused ? (
        w.clash ? (
          <>
            <Says>{w.refused}</Says>
            <div className="flex flex-wrap gap-2">
              <button type="button" className="btn" onClick={() => again({ revision: (w.clash?.revision ?? 1) + 1 })}>
                Keep mine: “{said(body)}”
              </button>
              <button type="button" className="btn" onClick={() => void queue.drop(w)}>
                Keep theirs: “{said(w.clash.theirs)}”
              </button>
              <SaveAsFile writes={[w]} />
            </div>
          </>
        ) : (
          <Refused w={w}>
            <input aria-label="Corrected reading" className="field max-w-48" value={text} onChange={(e) => setText(e.target.value)} />
            <button
              type="button"
              className="btn"
              onClick={() => again({ readings: (body.readings ?? []).map((r, i) => (i === 0 ? { ...r, texts: [text, ...(r.texts?.slice(1) ?? [])] } : r)) })}
            >
              Send again
            </button>
            <button type="button" className="btn" onClick={() => again({ state: 'void', fault: 'reading not usable' })}>
              Make it void
            </button>
          </Refused>
        )
      ) : null}
    </li>
  )
}

/** Why it was refused, and what can be done: nothing is left out before it could be taken along. */
function Refused({ w, children }: { w: Waiting; children?: React.ReactNode }) {
  return (
    <>
      <Says>{w.refused}</Says>
      <div className="flex flex-wrap gap-2">
        {children}
        <SaveAsFile writes={[w]} />
        <button type="button" className="btn btn-plain" onClick={() => void queue.drop(w)}>
          Leave it out
        </button>
      </div>
    </>
  )
}
