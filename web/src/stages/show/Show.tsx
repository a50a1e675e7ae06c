import { NotOpened } from '../../parts/NotOpened'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { v4 as uuid } from 'uuid'
import { api, ask, Refusal, type ReportLine, type Study } from '../../data/api'
import { anew, client, useReport, useReports, useStudy } from '../../data/queries'
import { ANSWER } from '../../parts/answer'
import { Empty } from '../../parts/Empty'
import { Frame } from '../../parts/Frame'
import { Says, Skeleton, Told, Trouble } from '../../parts/parts'
import { Opened } from './Opened'

const when = (at: string) => new Date(at).toLocaleString('en-GB', { weekday: 'short', day: 'numeric', month: 'long', hour: '2-digit', minute: '2-digit' })

/** From the last trial to the wall: a report is frozen, and shown as a poster, a report for the folder, a product card. */
export function Show() {
  const { id = '', report = '' } = useParams()
  const study = useStudy(id)
  const reports = useReports(id)
  if (study.isLoadingError || reports.isLoadingError)
    return <NotOpened error={study.error ?? reports.error} again={() => void Promise.all([study.refetch(), reports.refetch()])} />
  if (!study.data || !reports.data) return <Skeleton lines={5} />
  const chosen = reports.data.find((r) => r.id === report) ?? reports.data[0]
  return (
    <Frame study={study.data} title={`Show: ${study.data.title}`}>
      {chosen ? <One key={chosen.id} study={study.data} line={chosen} lines={reports.data} /> : <First study={study.data} />}
    </Frame>
  )
}

function useMake(study: Study) {
  const go = useNavigate()
  const [says, setSays] = useState('')
  const [busy, setBusy] = useState(false)
  const make = async () => {
    setBusy(true)
    setSays('')
    try {
      const path = { study_id: study.id }
      const made = await ask(api.POST('/api/studies/{study_id}/reports', { params: { path }, body: { id: uuid() } }))
      client.setQueryData(['report', study.id, made.id], made)
      await anew(['reports', study.id])
      void go(`/study/${study.id}/show/${made.id}`)
    } catch (why) {
      if (!(why instanceof Refusal)) throw why
      setSays(why.away ? 'The server cannot be reached. The trials are safe; make the poster when it can.' : why.message)
    } finally {
      setBusy(false)
    }
  }
  return { make, says, busy }
}

function First({ study }: { study: Study }) {
  const { make, says, busy } = useMake(study)
  return (
    <Empty
      title="Nothing is shown yet"
      says={[
        study.kept
          ? 'One press makes the poster, the report for the folder and the card from what is known now. It stays as it is, whatever comes later; the class can write its own sentences over it.'
          : 'The poster grows from the trials. Run them first.',
      ]}
    >
      {study.kept ? (
        <button type="button" className="btn btn-act min-h-[64px] px-8 text-[1.25rem]" disabled={busy} onClick={() => void make()}>
          Make the poster
        </button>
      ) : (
        <Link className="btn btn-act" to={`/study/${study.id}/run`}>
          To the lane
        </Link>
      )}
      <Told says={says} />
    </Empty>
  )
}

function One({ study, line, lines }: { study: Study; line: ReportLine; lines: readonly ReportLine[] }) {
  const report = useReport(study.id, line.id)
  const { make, says, busy } = useMake(study)
  if (report.isLoadingError) return <Trouble error={report.error} again={() => void report.refetch()} />
  if (!report.data) return <Skeleton lines={5} />
  return (
    <>
      <div className="no-print px-4 pt-5 md:px-8">
        <div className="flex flex-wrap items-baseline gap-x-6 gap-y-2">
          <Link className="order-last inline-flex min-h-[44px] items-center" to={`/study/${study.id}/wall`}>
            The lesson on the wall
          </Link>
          <Link className="order-last inline-flex min-h-[44px] items-center" to="/marking">
            Reports to mark
          </Link>
          <p className="m-0 text-quiet">
            Made {when(line.made_at)} from {line.kept} kept trials: {ANSWER[line.answer].toLowerCase()}. It says the same whenever it is opened.
          </p>
          {lines.length > 1 ? (
            <details className="text-quiet">
              <summary className="cursor-pointer font-semibold">All {lines.length} of this study</summary>
              <ul className="m-0 list-none p-0">
                {lines.map((l) => (
                  <li key={l.id} className="py-1">
                    <Link to={`/study/${study.id}/show/${l.id}`} aria-current={l.id === line.id ? 'page' : undefined}>
                      {when(l.made_at)}
                    </Link>
                    : {l.says}
                  </li>
                ))}
              </ul>
            </details>
          ) : null}
        </div>
        {report.data.changed.length ? (
          <div role="status" data-changed>
            <Says>
              Since then: {report.data.changed.join(' ')}{' '}
              <button type="button" className="btn btn-plain" disabled={busy} onClick={() => void make()}>
                Make a new one
              </button>
            </Says>
          </div>
        ) : null}
        <Told says={says} />
      </div>
      <Opened report={report.data} />
    </>
  )
}
