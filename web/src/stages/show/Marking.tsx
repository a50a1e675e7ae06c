import { NotOpened } from '../../parts/NotOpened'
import { counted } from '../../parts/counted'
import { useState } from 'react'
import { Link } from 'react-router'
import type { ToMark } from '../../data/api'
import { useMarking } from '../../data/queries'
import { ANSWER } from '../../parts/answer'
import { Frame } from '../../parts/Frame'
import { Line, Pick, Says, Skeleton } from '../../parts/parts'
import { useOwn } from './useOwn'

const classOf = (r: ToMark) => [r.class_label, r.year].filter(Boolean).join(', ') || 'no class'

/** A class's reports on one page: what is missing in each, and the teacher's word for the group. */
export function Marking() {
  const reports = useMarking()
  const [of, setOf] = useState('all')
  if (reports.isLoadingError) return <NotOpened error={reports.error} again={() => void reports.refetch()} />
  if (!reports.data) return <Skeleton lines={6} />
  const classes = [...new Set(reports.data.map(classOf))]
  const shown = of === 'all' ? reports.data : reports.data.filter((r) => classOf(r) === of)
  return (
    <Frame title="Reports to mark">
      <div className="mx-auto w-full max-w-[72rem] px-4 py-6 md:px-8">
        <div className="flex flex-wrap items-end gap-x-8 gap-y-2">
          <h1 className="m-0 text-[2.4rem]">Reports to mark</h1>
          <span className="grow" />
          {classes.length > 1 ? (
            <div className="no-print w-64">
              <Pick label="Class and year" value={of} options={[['all', 'All'] as const, ...classes.map((c) => [c, c] as const)]} onChange={setOf} />
            </div>
          ) : null}
        </div>
        {shown.length ? (
          <ul className="m-0 mt-4 list-none p-0">
            {shown.map((r) => (
              <One key={`${r.id} ${r.study_id}`} r={r} />
            ))}
          </ul>
        ) : (
          <p className="text-[1.15rem]">No report is made yet. Each study’s Show makes one in a press; the newest of each stands here.</p>
        )}
      </div>
    </Frame>
  )
}

function One({ r }: { r: ToMark }) {
  const own = useOwn({ id: r.id, own: r.own, revision: r.revision, study: { id: r.study_id } })
  return (
    <li className="hair grid gap-x-10 gap-y-2 py-4 md:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]" data-report={r.study_id}>
      <div>
        <p className="m-0 text-[1.2rem] font-semibold">
          <Link to={`/study/${r.study_id}/show/${r.id}`} className="inline-flex min-h-[44px] items-center">
            {r.title}
          </Link>
        </p>
        <p className="m-0 text-quiet">
          {[r.groups.slice(0, 6).join(', '), classOf(r), counted(r.kept, 'trial'), ANSWER[r.answer].toLowerCase()].filter(Boolean).join(' · ')}
        </p>
        <p className="m-0 mt-1">{r.says}</p>
        {r.missing.length ? (
          <ul className="m-0 mt-2 pl-5" data-missing>
            {r.missing.map((m) => (
              <li key={m}>{m}</li>
            ))}
          </ul>
        ) : (
          <p className="m-0 mt-2 font-semibold">Nothing is missing.</p>
        )}
      </div>
      <div>
        <Line label="To the group" rows={4} value={own.own.comment} onChange={own.comment} />
        <p className="m-0 text-quiet" role="status">
          {own.state.saving === 'saved'
            ? own.own.comment
              ? 'Saved. It stands at the end of their report.'
              : ''
            : own.state.saving === 'saving'
              ? 'Saving …'
              : ''}
        </p>
        {own.state.says ? <Says>{own.state.says}</Says> : null}
      </div>
    </li>
  )
}
