import { useState } from 'react'
import type { Study, Turn } from '../../data/api'
import { firstOf, payloadsOf } from '../../data/measures'
import { labelOf } from '../../data/trials'
import { dropsOf, everyRung, over } from '../../machines/drops'
import { missing } from '../../machines/missing'
import { plainNumber, type SeenTrial, turnKey } from '../../machines/turns'
import { TurnCells } from './TurnCells'
import { beforeKeeping } from './useEntry'
import { useGive } from './useGive'
import { useNow } from './useNow'

const noRung = () => null
const boxId = (row: number, rung: number) => `drop-${row}-${rung}`

/** A sheet of drops typed in: a row for each specimen, a box for each rung. A digit names the outcome, the best first, and is kept at once;
 *  on a ladder the row is over after a failure and the next specimen's comes. */
export function RungGrid({ study, turns, seen }: { study: Study; turns: readonly Turn[]; seen: readonly SeenTrial[] }) {
  const { now } = useNow(study)
  const give = useGive(study, now, false, noRung)
  const [says, setSays] = useState<{ row: number; text: string } | null>(null)
  const first = firstOf(study.draft)
  const payloads = payloadsOf(study.draft, first)
  const unit = study.draft.drop?.unit ?? 'm'
  const rungs = [...study.rungs].sort((a, b) => a - b)
  const every = everyRung(study)
  const finished = turns.filter((t) => over(dropsOf(study, seen, t), study.rungs, every)).length
  const wordsAt = (turn: Turn, rung: number): string => {
    const drop = seen.findLast(
      (t) => t.state === 'kept' && !t.practice && t.place !== 'outside' && t.block === turn.block && t.level === turn.level && plainNumber(t.rung) === rung,
    )
    return drop ? drop.readings.flatMap((r) => (r.measure === first.id ? (r.texts[0] ?? '') : [])).join(', ') : ''
  }
  const keep = async (turn: Turn, row: number, column: number, digits: string) => {
    const rung = rungs[column]
    const words = [...digits].map((d) => first.words[Number(d) - 1])
    if (rung === undefined || words.some((w) => w === undefined)) return
    const readings = words.map((w, n) => ({
      measure: first.id,
      payload: n + 1,
      texts: [w ?? ''],
      unit: '',
      taken: 'sheet' as const,
      stamps: [],
      source: '',
      clock_s: 0,
    }))
    const lacks = missing(study.draft, readings)
    if (lacks) return setSays({ row, text: lacks })
    const before = await beforeKeeping(study, readings, turn.level)
    if (before.state === 'refused') return setSays({ row, text: before.says })
    setSays(null)
    give(turn, { readings, rung: String(rung), specimen: `number ${turn.block}` })
    const survived = words.every((w) => first.words.indexOf(w ?? '') < first.survived)
    const next = survived || every ? document.getElementById(boxId(row, column + 1)) : null
    ;(next ?? document.querySelector<HTMLElement>(`[data-drop-row="${row + 1}"] input`))?.focus()
  }
  return (
    <section aria-label="Type a sheet of drops in" className="no-print mt-6">
      <p className="m-0" role="status">
        {finished} of {turns.length} specimens are through.
      </p>
      <p className="m-0 mt-1 text-quiet">
        In each box a digit{payloads.length > 1 ? ` for each payload (${payloads.join(', ')})` : ''}: {first.words.map((w, n) => `${n + 1} ${w}`).join(', ')}.
      </p>
      <div className="mt-2 overflow-x-auto" tabIndex={0} role="region" aria-label="The sheet of drops">
        <table className="w-full border-collapse" data-drop-sheet>
          <thead>
            <tr className="border-b-2 border-ink text-left">
              {['Turn', 'Group', 'Level', ...rungs.map((r) => `${r} ${unit}`)].map((h) => (
                <th key={h} scope="col" className="pr-3">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {turns.map((t, row) => {
              const drops = dropsOf(study, seen, t)
              const through = over(drops, study.rungs, every)
              return (
                <tr key={turnKey(t)} className="border-b border-hair" data-drop-row={row}>
                  <TurnCells study={study} turn={t} />
                  {rungs.map((rung, column) => {
                    const told = wordsAt(t, rung)
                    return (
                      <td key={rung} className="py-1 pr-3" data-rung={rung}>
                        {told ? (
                          <span className="font-semibold">{told}</span>
                        ) : through ? (
                          <span className="text-quiet">–</span>
                        ) : (
                          <input
                            id={boxId(row, column)}
                            autoComplete="off"
                            inputMode="numeric"
                            className="field big w-16 text-[1.35rem]"
                            aria-label={`Turn ${t.position}, ${labelOf(study, t.level)}: ${first.name} from ${rung} ${unit}`}
                            onChange={(e) => {
                              const digits = e.target.value.replace(/\D/g, '').slice(0, payloads.length)
                              e.target.value = digits
                              if (digits.length === payloads.length) void keep(t, row, column, digits)
                            }}
                            defaultValue=""
                          />
                        )}
                      </td>
                    )
                  })}
                  {says?.row === row ? (
                    <td className="py-1 font-semibold text-doubt" role="alert">
                      {says.text}
                    </td>
                  ) : null}
                </tr>
              )
            })}
          </tbody>
        </table>
      </div>
    </section>
  )
}
