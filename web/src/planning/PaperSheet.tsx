import type { Family, Study, Turn } from '../data/api'
import { firstOf, placesOf, unitSaid } from '../data/measures'
import { labelOf } from '../data/trials'
import { turnKey } from '../machines/turns'
import { PaperHead } from '../parts/PaperHead'

/** One group's sheet on paper, in the order of its turns: boxes large enough to write in on a knee. Turns that are kept already are left out. */
export function PaperSheet({
  study,
  family,
  group,
  turns,
  kept,
}: {
  study: Study
  family: Family | undefined
  group: string
  turns: readonly Turn[]
  kept: ReadonlySet<string>
}) {
  const places = placesOf(study.draft)
  const left = turns.filter((t) => !kept.has(turnKey(t)))
  const first = firstOf(study.draft)
  if (!left.length) return null
  const columns = study.rungs.length
    ? study.rungs.map((r) => `${r} ${study.draft.drop?.unit ?? 'm'}`)
    : places.map((p) =>
        [
          p.measure.name,
          p.payloadName,
          p.measure.timers > 1 && p.measure.id === first.id ? `timer ${p.timer + 1}` : '',
          unitSaid(p.measure) ? `/ ${unitSaid(p.measure)}` : '',
        ]
          .filter(Boolean)
          .join(' '),
      )
  return (
    <section className="hidden break-before-page first:break-before-auto print:block" data-paper-sheet={group}>
      <PaperHead study={study} what={group ? `recording sheet, ${group}` : 'recording sheet'} />
      <p className="m-0">
        {[
          first.rule,
          study.draft.start_line ? `Start line: ${study.draft.start_line}` : '',
          study.draft.void_rule ? `Void when: ${study.draft.void_rule}` : '',
          ...study.limits_said,
        ]
          .filter(Boolean)
          .join(' ')}
      </p>
      {family?.reset.length ? <p className="m-0">Before each: {family.reset.join(', ')}.</p> : null}
      {study.rungs.length && first.words.length ? (
        <p className="m-0">In each box: {first.words.join(', ')}. The rest of a row stays empty after it failed.</p>
      ) : null}
      <table className="mt-3 w-full border-collapse">
        <thead>
          <tr>
            {['Turn', study.draft.variable.name || 'level', ...columns, 'Void: what went wrong'].map((c) => (
              <th key={c} scope="col" className="border border-black p-1 text-left text-[0.95rem] first-letter:uppercase">
                {c}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {left.map((t) => (
            <tr key={turnKey(t)} style={{ height: '11mm' }}>
              <td className="w-[12mm] border border-black p-1 text-[1.1rem]">{t.position}</td>
              <td className="border border-black p-1 text-[1.15rem] font-bold">{labelOf(study, t.level)}</td>
              {columns.map((c) => (
                <td key={c} className="border border-black" />
              ))}
              <td className="w-[42mm] border border-black" />
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mb-0 mt-3">Who released: ______________________ What we noticed: ____________________________________________</p>
    </section>
  )
}
