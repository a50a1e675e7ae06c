import type { Analysis } from '../../data/api'
import { glued } from '../../parts/glue'

/** The headline with its size underlined by a strip of tape, its interval in smaller letters; the pieces come from the core. */
export function Headline({ a }: { a: Analysis }) {
  const spans = a.verdict.spans
  const small = (i: number) =>
    spans[i]?.holds === 'interval' || (spans[i + 1]?.holds === 'interval' && spans[i]?.text.trimStart().startsWith('(')) || spans[i]?.text.startsWith(')')
  return (
    <>
      {spans.map((s, i) => (
        <span
          // biome-ignore lint/suspicious/noArrayIndexKey: a piece of a sentence is its place
          key={i}
          className={s.holds === 'size' && a.verdict.size ? 'mark-line md:whitespace-nowrap print:whitespace-nowrap' : small(i) ? 'text-[0.62em]' : undefined}
        >
          {glued(s.text)}
        </span>
      ))}
    </>
  )
}
