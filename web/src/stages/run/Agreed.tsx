import type { Study } from '../../data/api'
import { firstOf } from '../../data/measures'
import { glued } from '../../parts/glue'

/** What the plan agreed on, where it is needed: at the lane. brief: what must be in sight all the time. */
export function Agreed({ study, brief = false }: { study: Study; brief?: boolean }) {
  const { start_line, void_rule } = study.draft
  const measure = firstOf(study.draft)
  const rows: [string, string[]][] = [
    ['Limit', study.limits_said],
    ['Read', measure.rule && !brief ? [measure.rule] : []],
    ['Start line', start_line && !brief ? [start_line] : []],
    ['Void when', void_rule ? [void_rule] : []],
    ['Kept the same', brief ? [] : study.held_said.map((h) => `${h.name}: ${h.how}`)],
  ]
  return (
    <dl className="m-0 text-[0.98rem]" data-agreed>
      {rows.map(([name, lines]) =>
        lines.length ? (
          <div key={name} className="mb-2">
            <dt className="font-semibold text-quiet">{name}</dt>
            {lines.map((line) => (
              <dd key={line} className={`m-0 text-pretty ${name === 'Limit' ? 'font-bold' : ''}`}>
                {glued(line)}
              </dd>
            ))}
          </div>
        ) : null,
      )}
    </dl>
  )
}
