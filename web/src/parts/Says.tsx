import type { ReactNode } from 'react'

/** A sentence that says what cannot be and what to do. */
export function Says({ children }: { children: ReactNode }) {
  return (
    <p className="m-0 mt-1 font-semibold text-doubt" data-says>
      {children}
    </p>
  )
}
