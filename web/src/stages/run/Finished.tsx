import { useState } from 'react'
import { Link } from 'react-router'
import type { Study } from '../../data/api'
import { setFinished } from '../../data/studies'
import { Says } from '../../parts/parts'

/** A finished study takes no trial before somebody opens it again: asked first, so that nobody adds to it by mistake. */
export function Finished({ study }: { study: Study }) {
  const [says, setSays] = useState('')
  const open = () => setFinished(study, false).catch((why: unknown) => setSays(why instanceof Error ? why.message : String(why)))
  return (
    <section aria-label="This study is finished" className="px-4 py-10 md:px-8" data-finished>
      <h1 className="m-0 text-[2.6rem]">This study is finished</h1>
      <p className="mt-2 max-w-[40rem] text-[1.15rem]">
        {study.kept} of {study.planned} trials are kept. To add a trial, open it again; what is added after that is told beside the verdict.
      </p>
      <div className="mt-4 flex flex-wrap gap-4">
        <button type="button" className="btn btn-act" onClick={() => void open()}>
          Open it again
        </button>
        <Link className="btn" to={`/study/${study.id}/work-out`}>
          Work out
        </Link>
      </div>
      {says ? <Says>{says}</Says> : null}
    </section>
  )
}
