import { Link } from 'react-router'
import { Frame } from './Frame'
import { Says } from './parts'

/** A page that the server would not or could not give: what it said, and the ways on. */
export function NotOpened({ error, again }: { error: unknown; again: () => void }) {
  return (
    <Frame title="Not opened">
      <div className="px-4 py-10 md:px-8" data-refused>
        <h1 className="m-0 text-[2.8rem]">This page could not be opened</h1>
        <div role="alert" className="mt-2 text-[1.15rem]">
          <Says>{error instanceof Error ? error.message : 'Something went wrong.'}</Says>
        </div>
        <div className="mt-5 flex flex-wrap gap-4">
          <button type="button" className="btn btn-act" onClick={again}>
            Try again
          </button>
          <Link to="/" className="btn">
            All studies
          </Link>
        </div>
      </div>
    </Frame>
  )
}
