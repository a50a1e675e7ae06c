import type { ReactNode } from 'react'
import { formula, type Node } from '../machines/formula'

/** A line of working in proper notation where it is a formula, as it is written where it is a sentence. */
export function Formula({ line }: { line: string }) {
  const sides = formula(line)
  if (!sides) return <>{line}</>
  return (
    <math aria-label={line} className="text-[1.12em]">
      <mrow>
        {line.startsWith('= ') ? <Sign text="=" /> : null}
        {sides.map((side, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a side is its place
          <mrow key={i}>
            {i ? <Sign text="=" /> : null}
            {drawn(side)}
          </mrow>
        ))}
      </mrow>
    </math>
  )
}

/** A sign with the same room on both sides, wherever it stands. */
const Sign = ({ text }: { text: string }) => (
  <mo lspace="0.28em" rspace="0.28em">
    {text}
  </mo>
)

function drawn(n: Node): ReactNode {
  if (n.is === 'text') return <mtext>{n.text}</mtext>
  if (n.is === 'sign') return <Sign text={n.text} />
  if (n.is === 'row')
    return (
      <mrow>
        {n.of.map((part, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a part is its place
          <mrow key={i}>{drawn(part)}</mrow>
        ))}
      </mrow>
    )
  if (n.is === 'over')
    return (
      <mfrac>
        <mrow>{drawn(n.top)}</mrow>
        <mrow>{drawn(n.under)}</mrow>
      </mfrac>
    )
  if (n.is === 'root')
    return (
      <msqrt>
        <mrow>{drawn(n.of)}</mrow>
      </msqrt>
    )
  if (n.is === 'squared')
    return (
      <msup>
        <mrow>{drawn(n.of)}</mrow>
        <mn>2</mn>
      </msup>
    )
  return (
    <mrow>
      <mo>(</mo>
      {drawn(n.of)}
      <mo>)</mo>
    </mrow>
  )
}
