import { useState } from 'react'
import { api, ask, type NotHeld, type Study, type Turn } from '../../data/api'
import { useVersions } from '../../data/queries'
import { Line, Pick, Says, Sheet } from '../../parts/parts'
import { asPlanned, deviceOf, type Now, versionsAt, WORD, heldOf } from './useNow'

/** How the held things stand now: asked at the start of a run, again only when something changes; every trial since carries it. */
export function NowSheet({
  open,
  onClose,
  study,
  turn,
  now,
  onNow,
}: {
  open: boolean
  onClose: () => void
  study: Study
  turn: Turn | undefined
  now: Now
  onNow: (now: Now) => void
}) {
  return (
    <Sheet open={open} onClose={onClose} title="Conditions now">
      {open ? <Form study={study} turn={turn} now={now} onNow={onNow} onClose={onClose} /> : null}
    </Sheet>
  )
}

/** What is written in the fields, as the trials carry it. */
export const settled = (now: Now): Now => ({
  ...now,
  person: now.person.trim().slice(0, WORD),
  conditions: Object.fromEntries(Object.entries(now.conditions).flatMap(([k, v]) => (v.trim() ? [[k, v.trim().slice(0, WORD)]] : []))),
})

/** What of this is not as planned; nothing while the server cannot be reached. */
export async function notHeld(study: Study, now: Now): Promise<NotHeld[]> {
  try {
    const path = { study_id: study.id }
    const { conditions, person } = settled(now)
    const body = { conditions, person }
    return await ask(api.POST('/api/studies/{study_id}/conditions', { params: { path }, body, signal: AbortSignal.timeout(3_000) }))
  } catch {
    return [] // the audit sees it in the trials later
  }
}

export function NowFields({ study, turn, now, onNow }: { study: Study; turn?: Turn | undefined; now: Now; onNow: (now: Now) => void }) {
  const held = heldOf(study)
  const versions = useVersions(study.id).data ?? []
  const mine = versionsAt(study, versions, turn)
  const own = deviceOf(study, versions, turn)
  return (
    <>
      <Line label="Who releases, by seat or number" value={now.person} placeholder="seat 2" onChange={(person) => onNow({ ...now, person })} />
      {mine.length > 1 ? (
        <Pick
          label={`Version of ${own.device} that is released`}
          value={String(now.versions[own.device] ?? own.version)}
          options={mine.map((v) => [String(v.number), `version ${v.number}${v.number === own.version ? ', the newest' : ''}`] as const)}
          onChange={(v) => onNow({ ...now, versions: { ...now.versions, [own.device]: Number(v) } })}
        />
      ) : null}
      {held.map((h) => (
        <Line
          key={h.name}
          label={h.name}
          hint={h.value && h.tolerance ? `Planned: ${h.value}, within ${h.tolerance}.` : undefined}
          value={now.conditions[h.name] ?? ''}
          onChange={(v) => onNow({ ...now, conditions: { ...now.conditions, [h.name]: v } })}
        />
      ))}
    </>
  )
}

function Form({ study, turn, now, onNow, onClose }: { study: Study; turn: Turn | undefined; now: Now; onNow: (now: Now) => void; onClose: () => void }) {
  const [form, setForm] = useState(() => asPlanned(study, now))
  const [off, setOff] = useState<{ of: Now; found: NotHeld[] } | null>(null)
  const told = off && off.of === form ? off.found : []
  return (
    <form
      className="grid gap-4"
      onSubmit={async (e) => {
        e.preventDefault()
        const found = told.length ? [] : await notHeld(study, form)
        if (found.length) {
          setOff({ of: form, found })
          return
        }
        onNow(settled(form))
        onClose()
      }}
    >
      <p className="m-0 text-quiet">Every trial from here on carries this. Come back when something changes.</p>
      <NowFields study={study} turn={turn} now={form} onNow={setForm} />
      {told.length ? (
        <div role="alert" className="grid gap-1">
          {told.map((n) => (
            <Says key={n.name}>{n.says}</Says>
          ))}
        </div>
      ) : null}
      <button type="submit" className="btn btn-act">
        {told.length ? 'It stands so all the same' : 'It stands so'}
      </button>
    </form>
  )
}
