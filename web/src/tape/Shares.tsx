import type { Study } from '../data/api'
import { firstOf } from '../data/measures'
import type { SeenTrial } from '../machines/turns'
import { Shape } from '../parts/parts'

/** Survived or not, level by level: a full mark for each that survived, an open struck one for each that did not. */
export function Shares({ study, seen, response }: { study: Study; seen: readonly SeenTrial[]; response?: string }) {
  const passed = study.responses.find((r) => r.id === (response ?? firstOf(study.draft).id))?.passed || 'survived'
  const measure = study.draft.measures.find((m) => m.id === response) ?? firstOf(study.draft)
  return (
    <ul className="m-0 mt-4 list-none border-t-[8px] border-tape p-0" aria-label="Outcomes so far" data-shares>
      {study.levels.map((l, i) => {
        const words = seen
          .filter((t) => t.level === l.id && t.state === 'kept' && !t.practice && t.place !== 'outside')
          .map((t) => ({
            words: t.readings.filter((r) => r.measure === measure.id).map((r) => r.texts[0] ?? ''),
            told: t.given.find((g) => g.id === measure.id)?.survived,
          }))
          .filter((t) => t.words.length && t.told !== null) // one payload of which nothing is known leaves the whole open
        const lived = ({ words, told }: { words: string[]; told?: boolean | null | undefined }) =>
          told ??
          words.every((w) => {
            const at = measure.words.findIndex((x) => x.toLowerCase() === w.trim().toLowerCase())
            return at >= 0 && at < measure.survived
          })
        return (
          <li key={l.id} className="hair flex flex-wrap items-center gap-x-3 gap-y-1 py-2">
            <span className="w-32 font-semibold">{l.label}</span>
            {words.map((w, n) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a mark is its place in the order
              <span key={n} title={w.words.join(', ')} className={lived(w) ? '' : 'opacity-70 [text-decoration:line-through]'}>
                {lived(w) ? <Shape n={i} size={20} /> : <span className="inline-block h-5 w-5 border-2 border-dashed border-ink" aria-hidden="true" />}
                <span className="sr-only">{lived(w) ? passed : passed === 'survived' ? 'failed' : 'not'}</span>
              </span>
            ))}
            <span className="num ml-auto text-quiet">
              {words.filter(lived).length} of {words.length} {passed}
            </span>
          </li>
        )
      })}
    </ul>
  )
}
