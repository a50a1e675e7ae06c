import type { DetailedHTMLProps, HTMLAttributes } from 'react'

type Mathml = DetailedHTMLProps<HTMLAttributes<HTMLElement>, HTMLElement>

declare module 'react' {
  namespace JSX {
    interface IntrinsicElements {
      math: Mathml
      mrow: Mathml
      mo: Mathml & { lspace?: string; rspace?: string }
      mn: Mathml
      mtext: Mathml
      mfrac: Mathml
      msqrt: Mathml
      msup: Mathml
    }
  }
}
