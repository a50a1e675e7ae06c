import { useState } from 'react'
import type { Study } from '../../data/api'
import { typed } from '../../data/keep'
import { firstOf } from '../../data/measures'
import { bodyOf, labelOf, levelIndex } from '../../data/trials'
import { queue } from '../../machines/saveQueue'
import type { SeenTrial } from '../../machines/turns'
import { Line, Shape } from '../../parts/parts'

const key = (study: Study, block: number) => `round:${study.id}:${block}`

/** The last round of a contest in zones that is complete and not yet looked over: a later piece may have pushed an earlier one. */
function roundOf(study: Study, seen: readonly SeenTrial[]): { block: number; rows: SeenTrial[] } | null {
  const kept = seen.filter((t) => t.state === 'kept' && t.place === 'turn' && !t.practice)
  const blocks = [...new Set(kept.map((t) => t.block))].sort((a, b) => b - a)
  const block = blocks.find((b) => study.levels.every((l) => kept.some((t) => t.block === b && t.level === l.id)))
  if (block === undefined || typed.get(key(study, block))) return null
  const rows = study.levels.flatMap((l) => kept.find((t) => t.block === block && t.level === l.id) ?? [])
  return { block, rows }
}

/** A round is scored as it lies at its end: each piece by its group, where one has been pushed on its new place is written. */
export function RoundEnd({ study, seen }: { study: Study; seen: readonly SeenTrial[] }) {
  const measure = firstOf(study.draft)
  const [texts, setTexts] = useState<Record<string, string>>({})
  const [, again] = useState(0)
  const round = roundOf(study, seen)
  if (!round) return null
  const read = (t: SeenTrial) => t.readings.find((r) => r.measure === measure.id)?.texts[0] ?? ''
  const moved = round.rows.filter((t) => texts[t.id] !== undefined && texts[t.id]?.trim() !== '' && texts[t.id]?.trim() !== read(t))
  const done = () => {
    for (const t of moved) {
      const body = bodyOf(t)
      const readings = body.readings.map((r) =>
        r.measure === measure.id ? { ...r, texts: [texts[t.id]?.trim() ?? ''], taken: 'typed' as const, stamps: [], source: '' } : r,
      )
      const note = [t.note, `pushed on by a later one, from ${read(t)} ${measure.unit}`].filter(Boolean).join('; ')
      void queue.add({ kind: 'trial', studyId: study.id, title: study.title, id: t.id, body: { ...body, readings, note, revision: t.revision + 1 } })
    }
    typed.set(key(study, round.block), 'seen')
    setTexts({})
    again((n) => n + 1)
  }
  return (
    <section aria-label={`Round ${round.block} as it lies`} className="mx-4 my-3 border-t-[8px] border-tape pt-3 md:mx-8" data-round>
      <h2 className="m-0 text-[1.5rem]">Round {round.block} is in. Where does each piece lie now?</h2>
      <p className="m-0 text-quiet">A later piece may have pushed an earlier one into another zone. Write where it lies; the others stay as they are.</p>
      <div className="mt-2 grid grid-cols-2 gap-x-6 gap-y-2 md:grid-cols-4">
        {round.rows.map((t) => (
          <div key={t.id} className="flex items-end gap-2">
            <Shape n={levelIndex(study, t.level)} size={18} />
            <div className="grow">
              <Line
                label={`${labelOf(study, t.level)}, ${measure.unit}`}
                big
                value={texts[t.id] ?? read(t)}
                onChange={(text) => setTexts({ ...texts, [t.id]: text })}
              />
            </div>
          </div>
        ))}
      </div>
      <button type="button" className="btn btn-act mt-3 min-h-[56px]" onClick={done}>
        {moved.length ? `Write ${moved.length === 1 ? 'the new place' : `${moved.length} new places`}` : 'They lie as they are written'}
      </button>
    </section>
  )
}
