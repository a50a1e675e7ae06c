import type { Ahead, Draft, Study } from '../../data/api'
import { firstOf, scaleOf, unitSaid } from '../../data/measures'
import { Line } from '../../parts/parts'
import type { PartOf } from '../../planning/problems'
import { Tape } from '../../tape/Tape'

/** Which way of timing is good enough: how far each may be off, and how many trials it would take. */
function Ways({ ways, unit }: { ways: NonNullable<NonNullable<Ahead['outlook']>['ways']>; unit: string }) {
  return (
    <div className="grid gap-2" data-ways>
      <p className="m-0 text-[1.1rem]">{ways.says}</p>
      <div className="overflow-x-auto">
        <table className="w-full text-left">
          <caption className="sr-only">Ways of timing</caption>
          <thead>
            <tr className="border-b-2 border-ink">
              <th className="py-1 pr-4">Timed by</th>
              <th className="num py-1 pr-4">may be off by</th>
              <th className="num py-1">trials at each level</th>
            </tr>
          </thead>
          <tbody>
            {ways.ways.map((w) => (
              <tr key={w.id} className="hair" data-way={w.id}>
                <td className="py-1 pr-4 first-letter:uppercase">{w.name}</td>
                <td className="num py-1 pr-4">
                  ±{w.text} {unit}
                </td>
                <td className={`num py-1 ${w.enough ? 'font-semibold' : 'text-quiet'}`}>
                  {w.needed ?? 'more than 50'}
                  {w.enough ? ', enough' : ''}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  )
}

/** What the plan expects to see: likely marks, drawn apart from real ones, and whether these repeats would show the effect. */
export function RehearsalPart({ draft, change, study, ahead }: PartOf & { study: Study; ahead: Ahead | undefined }) {
  const o = ahead?.outlook
  const r = o?.rehearsal
  const guess = draft.guess ?? {}
  const unit = scaleOf(firstOf(draft)).scored ? 'points' : unitSaid(firstOf(draft))
  const set = (part: Partial<NonNullable<Draft['guess']>>) => change({ guess: { ...guess, ...part } })
  const levels = study.levels.map((l, i) => ({
    label: l.label,
    shape: i,
    marks: (r?.readings[i] ?? []).map((value, j) => ({ id: `${i}:${j}`, value, kind: 'likely' as const })),
  }))
  return (
    <>
      {r && levels.length === r.readings.length ? (
        <>
          <p className="m-0 text-[1.1rem]">
            {o?.expects} {r.says}
          </p>
          <p className="m-0 text-quiet">
            Likely marks, {o?.basis === 'guess' ? 'from what you expect' : 'from the physics of the family and usual reading errors'}. Dashed: none of them was
            measured, and none is ever counted.
          </p>
          <Tape
            levels={levels}
            unit={unit}
            caption={`Rehearsal, not real: ${study.levels.map((l, i) => `${l.label} about ${r.expected[i]?.toPrecision(2)}`).join(', ')}.`}
          />
        </>
      ) : (
        <p className="m-0">{o?.why_not ?? 'Once the plan is whole, likely marks stand here.'}</p>
      )}
      {o?.ways ? <Ways ways={o.ways} unit={unit} /> : null}
      <div className="grid gap-6 md:grid-cols-3">
        <Line label="What you expect at the first level" value={guess.first ?? ''} placeholder={`2.1 ${unit}`} onChange={(first) => set({ first })} />
        <Line label="and at the last level" value={guess.last ?? ''} placeholder={`2.8 ${unit}`} onChange={(last) => set({ last })} />
        <Line
          label="Repeats usually vary by about"
          value={guess.scatter ?? ''}
          placeholder={`0.2 ${unit}`}
          hint="Leave all three empty to go by the family’s physics."
          onChange={(scatter) => set({ scatter })}
        />
      </div>
    </>
  )
}
