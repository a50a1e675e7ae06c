import { useState } from 'react'
import type { Ahead, Draft } from '../../data/api'
import { Field, Line, Pick, Whole } from '../../parts/parts'
import type { PartOf } from '../../planning/problems'
import { CHOICES } from '../../planning/choices.gen'
import { pairs, why } from '../../planning/words'

/** How often, in which order, who does what, and how long one trial takes. */
export function OftenPart({ draft, change, at, asked, ahead }: PartOf & { ahead: Ahead | undefined }) {
  const t = draft.timing ?? {}
  const timing = (part: Partial<NonNullable<Draft['timing']>>) => change({ timing: { ...t, ...part } })
  return (
    <>
      <div className="grid gap-6 md:grid-cols-[11.5rem_8.5rem_1fr]">
        <Whole
          label="Repeats of each level"
          says={at('repeats')}
          hint={asked('repeats')}
          value={draft.repeats ?? 5}
          onChange={(repeats) => change({ repeats })}
        />
        <Whole
          label="Practice trials"
          hint="For each group; they do not count."
          most={20}
          value={draft.practice ?? 1}
          onChange={(practice) => change({ practice })}
        />
        <Groups value={draft.groups ?? []} says={at('groups')} onChange={(groups) => change({ groups })} />
      </div>
      <div className="grid gap-6 md:grid-cols-2">
        <Whole
          label="Further repeats in reserve"
          most={20}
          hint="Agreed now, they may be added after the verdict is read. Luck must then be rarer than 4 in 100 at first, and rarer than 2 in 100 with them."
          value={draft.reserve ?? 0}
          onChange={(reserve) => change({ reserve })}
        />
        <div className="grid grid-cols-2 gap-6">
          <Line
            label="Class"
            value={draft.class_label ?? ''}
            placeholder="9 Teal"
            hint="Stands on what is printed."
            onChange={(class_label) => change({ class_label })}
          />
          <Line label="Year" value={draft.year ?? ''} placeholder="2026/27" onChange={(year) => change({ year })} />
        </div>
      </div>
      <Pick
        label="Order of trials"
        hint={why(CHOICES.order, draft.order)}
        value={draft.order ?? 'blocks'}
        options={pairs(CHOICES.order.filter(([o]) => o !== 'unknown' || draft.order === o))}
        onChange={(order) => change({ order })}
      />
      <details>
        <summary className="min-h-[48px] cursor-pointer content-center font-semibold">Who does what in a group of {draft.people}</summary>
        <div className="grid gap-4 pt-2 md:grid-cols-[9rem_1fr]">
          <Whole label="People in a group" least={1} most={6} value={draft.people ?? 3} onChange={(people) => change({ people })} />
          <Roles rows={ahead?.roles ?? []} />
        </div>
      </details>
      <details>
        <summary className="min-h-[48px] cursor-pointer content-center font-semibold">How long one trial takes, lanes and adults</summary>
        <div className="grid grid-cols-2 gap-x-6 gap-y-4 pt-2 md:grid-cols-4">
          <Whole label="Set up, s" most={3600} value={t.setup_s ?? 20} onChange={(setup_s) => timing({ setup_s })} />
          <Whole label="Flight or fall, s" most={3600} value={t.flight_s ?? 5} onChange={(flight_s) => timing({ flight_s })} />
          <Whole label="Read and write, s" most={3600} value={t.reading_s ?? 20} onChange={(reading_s) => timing({ reading_s })} />
          <Whole label="Reset, s" most={3600} value={t.reset_s ?? 15} onChange={(reset_s) => timing({ reset_s })} />
          <Whole label="Minutes for trials" most={600} value={t.trials_min ?? 25} onChange={(trials_min) => timing({ trials_min })} />
          <Whole label="Lanes" least={1} most={12} value={t.lanes ?? 1} onChange={(lanes) => timing({ lanes })} />
          <Whole label="Adults" most={12} value={t.adults ?? 1} onChange={(adults) => timing({ adults })} />
        </div>
      </details>
    </>
  )
}

function Groups({ value, says, onChange }: { value: string[]; says: string | undefined; onChange: (g: string[]) => void }) {
  const [text, setText] = useState(value.join(', '))
  const [known, setKnown] = useState(value)
  const said = (t: string) =>
    t
      .split(/[,;\n]/)
      .map((g) => g.trim())
      .filter((g) => g !== '')
  if (known.join() !== value.join()) {
    setKnown(value)
    if (said(text).join() !== value.join()) setText(value.join(', '))
  }
  return (
    <Field label="Group names, separated by commas" says={says} hint="Birds, colours or numbers, not pupils’ names. They take turns.">
      {(p) => (
        <input
          {...p}
          className="field"
          value={text}
          placeholder="Red, Blue, Green"
          onChange={(e) => {
            setText(e.target.value)
            setKnown(said(e.target.value))
            onChange(said(e.target.value))
          }}
        />
      )}
    </Field>
  )
}

function Roles({ rows }: { rows: readonly (readonly string[])[] }) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse text-left">
        <thead>
          <tr className="text-quiet">
            <th className="py-1 pr-4 font-semibold">Block</th>
            {rows[0]?.map((_, seat) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a pupil is their number
              <th key={seat} className="py-1 pr-4 font-semibold">
                Pupil {seat + 1}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, block) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a block is its number
            <tr key={block} className="hair">
              <td className="big py-1 pr-4">{block + 1}</td>
              {row.map((role, seat) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a pupil is their number
                <td key={seat} className="py-1 pr-4">
                  {role}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
