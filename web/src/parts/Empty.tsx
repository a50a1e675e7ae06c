import type { ReactNode } from 'react'
import { Link } from 'react-router'

/** A page on which there is nothing yet: what is missing, and the one act that brings it. Every such page is in this hand. */
export function Empty({ title, says, to, act, children }: { title: string; says: readonly string[]; to?: string; act?: string; children?: ReactNode }) {
  return (
    <div className="px-4 py-10 md:px-8" data-empty>
      <h1 className="m-0 text-[2.8rem]">{title}</h1>
      {says.map((line) => (
        <p key={line} className="m-0 mt-2 max-w-[44rem] text-[1.15rem]">
          {line}
        </p>
      ))}
      <div className="mt-5">
        {to && act ? (
          <Link className="btn btn-act" to={to}>
            {act}
          </Link>
        ) : null}
        {children}
      </div>
    </div>
  )
}
