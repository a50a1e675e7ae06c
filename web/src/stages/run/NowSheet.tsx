import { useState } from 'react'
import type { Study } from '../../data/api'
import { Line, Sheet } from '../../parts/parts'
import type { Now } from './useNow'

/** How the held things stand now: asked once, again only when something changes; every trial since carries it. */
export function NowSheet({ open, onClose, study, now, onNow }: { open: boolean; onClose: () => void; study: Study; now: Now; onNow: (now: Now) => void }) {
  return (
    <Sheet open={open} onClose={onClose} title="As it is now">
      {open ? <Form study={study} now={now} onNow={onNow} onClose={onClose} /> : null}
    </Sheet>
  )
}

function Form({ study, now, onNow, onClose }: { study: Study; now: Now; onNow: (now: Now) => void; onClose: () => void }) {
  const held = (study.draft.hold ?? []).filter((h) => h.name.trim())
  const [person, setPerson] = useState(now.person)
  const [conditions, setConditions] = useState<Record<string, string>>(() => ({
    ...Object.fromEntries(held.map((h) => [h.name, h.value || h.how])),
    ...now.conditions,
  }))
  return (
    <form
      className="grid gap-4"
      onSubmit={(e) => {
        e.preventDefault()
        onNow({
          person: person.trim().slice(0, 60),
          conditions: Object.fromEntries(Object.entries(conditions).flatMap(([k, v]) => (v.trim() ? [[k, v.trim().slice(0, 60)]] : []))),
        })
        onClose()
      }}
    >
      <p className="m-0 text-quiet">Every trial from here on carries this. Come back when something changes.</p>
      <Line label="Who releases, by seat or number" value={person} placeholder="seat 2" onChange={setPerson} />
      {held.map((h) => (
        <Line
          key={h.name}
          label={h.name}
          hint={h.value && h.tolerance ? `Planned: ${h.value}, within ${h.tolerance}.` : undefined}
          value={conditions[h.name] ?? ''}
          onChange={(v) => setConditions({ ...conditions, [h.name]: v })}
        />
      ))}
      <button type="submit" className="btn btn-act">
        It stands so
      </button>
    </form>
  )
}
