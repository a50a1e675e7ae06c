import type { Ahead, Study } from '../../../data/api'
import { unitSaid } from '../../../data/measures'
import { counted } from '../../../parts/counted'
import { PaperHead } from '../../../parts/PaperHead'

/** The plan on one page, as it is handed out: what is changed, measured and kept the same, how often, by whom, and the cautions. */
export function PlanOnPaper({ study, ahead }: { study: Study; ahead: Ahead | undefined }) {
  const { draft } = study
  const rows: [string, string][] = [
    ['What we change', [draft.variable.name, study.levels.map((l) => l.label).join(', ')].filter(Boolean).join(': ')],
    ['What we measure', draft.measures.map((m) => [`${m.name}${unitSaid(m) ? ` in ${unitSaid(m)}` : ''}`, m.rule].filter(Boolean).join('. ')).join(' ')],
    ['What stays the same', (ahead?.kept_same ?? []).map((k) => `${k.name}${k.how ? ` (${k.how})` : ''}`).join(', ')],
    ['How often', `${counted(draft.repeats ?? 0, 'trial')} of each, ${study.planned} in all`],
    ['Start line', draft.start_line ?? ''],
    ['Void when', draft.void_rule ?? ''],
    ['Limits', study.limits_said.join(' ')],
  ]
  return (
    <section data-plan-on-paper>
      <PaperHead study={study} what="the plan" />
      <dl className="m-0 grid grid-cols-[11rem_1fr] gap-x-4 gap-y-2">
        {rows.map(([name, says]) =>
          says ? (
            <div key={name} className="contents">
              <dt className="font-bold">{name}</dt>
              <dd className="m-0">{says}</dd>
            </div>
          ) : null,
        )}
      </dl>
      <h2 className="mt-5 mb-1 text-[1.3rem]">Cautions</h2>
      <ul className="m-0 pl-5">
        {study.cautions.map((c) => (
          <li key={c}>{c}</li>
        ))}
      </ul>
      <p className="m-0 mt-1">Your school’s own risk assessment, local rules and qualified staff decide; this list does not replace them.</p>
      {study.problems.some((p) => p.grave) ? (
        <p className="m-0 mt-3 font-bold">
          Still open in this plan:{' '}
          {study.problems
            .filter((p) => p.grave)
            .map((p) => p.says)
            .join(' ')}
        </p>
      ) : null}
    </section>
  )
}
