import type { Draft, Family } from '../data/api'

/** The forces and terms at work in the family at the class's reading level, and questions to put before and after the trials. */
export function AtWork({ family, level }: { family: Family | undefined; level: NonNullable<Draft['reading_level']> }) {
  if (!family) return null
  return (
    <details className="no-print mt-8 border-t-2 border-ink pt-3" data-at-work>
      <summary className="min-h-[48px] cursor-pointer content-center text-[1.35rem] font-semibold">What is at work, and what to ask</summary>
      <p className="m-0 mt-2 max-w-[52rem] text-[1.15rem]">{family.forces[level]}</p>
      <div className="mt-4 grid gap-x-12 gap-y-6 md:grid-cols-3">
        <section aria-label="Terms">
          <h3 className="m-0 text-[1.1rem]">Terms</h3>
          <dl className="m-0 mt-1">
            {Object.entries(family.terms).map(([term, said]) => (
              <div key={term} className="hair py-1.5">
                <dt className="font-semibold">{term}</dt>
                <dd className="m-0">{said[level]}</dd>
              </div>
            ))}
          </dl>
        </section>
        <Asked title="Before the first trial" questions={family.questions.before} />
        <Asked title="Afterwards" questions={family.questions.after} />
      </div>
    </details>
  )
}

function Asked({ title, questions }: { title: string; questions: readonly string[] }) {
  return (
    <section aria-label={title}>
      <h3 className="m-0 text-[1.1rem]">{title}</h3>
      <ul className="m-0 mt-1 list-none p-0">
        {questions.map((q) => (
          <li key={q} className="hair py-1.5">
            {q}
          </li>
        ))}
      </ul>
    </section>
  )
}
