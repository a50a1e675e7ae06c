import { useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { v4 as uuid } from 'uuid'
import { api, ask, Refusal, type Report } from '../../data/api'
import { anew } from '../../data/queries'
import type { SeenTrial } from '../../machines/turns'
import { Pick, Says, Told } from '../../parts/parts'
import { Card } from './Card'
import { Folder } from './Folder'
import { Podium } from './Podium'
import { Poster } from './Poster'
import { useOwn } from './useOwn'

const VIEWS = [
  ['poster', 'Poster'],
  ['folder', 'Report for the folder'],
  ['card', 'Product card'],
  ['podium', 'Podium on the wall'],
] as const
type View = (typeof VIEWS)[number][0]

/** Paper in millimetres, its name, and how @page calls it. */
export const PAPERS = [
  ['a4-across', 'A4 across', 297, 210],
  ['a4-upright', 'A4 upright', 210, 297],
  ['a3-across', 'A3 across', 420, 297],
  ['a3-upright', 'A3 upright', 297, 420],
  ['wall', 'Wall, 16:9', 338.67, 190.5],
] as const
export type Paper = (typeof PAPERS)[number][0]

/** Parts of the poster that a class may leave out. */
const LEAVABLE = [
  ['predicted', 'prediction'],
  ['podium', 'podium'],
  ['tape', 'tape'],
  ['kept_same', 'kept the same'],
  ['how_sure', 'how sure'],
  ['fairer', 'fairer next time'],
  ['next', 'next idea'],
  ['besides', 'other measures'],
] as const

/** Parts that a class may take in where there is something of them. */
const FURTHER = [
  ['behaviours', 'how they behaved'],
  ['faults', 'what went wrong'],
  ['versions', 'the versions'],
] as const

export function Opened({ report }: { report: Report }) {
  const [view, setView] = useState<View>('poster')
  const [paper, setPaper] = useState<Paper>('a4-across')
  const [writing, setWriting] = useState(false)
  const own = useOwn(report)
  const seen = useMemo<SeenTrial[]>(() => report.trials.map((t) => ({ ...t, saved: 'yes' as const })), [report.trials])
  const size = PAPERS.find(([id]) => id === paper) ?? PAPERS[0]
  const page = view === 'poster' ? `@page { size: ${size[2]}mm ${size[3]}mm; margin: 0 }` : '@page { size: A4 portrait; margin: 12mm }'
  return (
    <div className="px-4 pb-8 pt-4 md:px-8 print:p-0">
      <style>{page}</style>
      <div className="no-print flex flex-wrap items-end gap-x-5 gap-y-3">
        <div role="tablist" aria-label="What is shown" className="flex flex-wrap gap-2">
          {VIEWS.map(([id, label]) => (
            <button
              key={id}
              type="button"
              role="tab"
              aria-selected={view === id}
              className={`btn ${view === id ? 'bg-tape text-tape-ink' : 'border-transparent text-quiet underline decoration-1 underline-offset-4'}`}
              onClick={() => setView(id)}
            >
              {label}
            </button>
          ))}
        </div>
        {view === 'poster' ? <Pick label="Paper" value={paper} options={PAPERS.map(([id, label]) => [id, label] as const)} onChange={setPaper} /> : null}
        <button type="button" className="btn" aria-pressed={writing} onClick={() => setWriting(!writing)}>
          {writing ? 'Look at it' : 'Write on it'}
        </button>
        <button type="button" className="btn btn-act" onClick={() => window.print()}>
          Print
        </button>
        <span role="status" className="text-quiet">
          {own.state.saving === 'saving' ? 'Saving …' : own.state.saving === 'saved' ? '' : own.state.says}
        </span>
      </div>
      {own.state.saving === 'refused' ? (
        <div role="alert">
          <Says>{own.state.says}</Says>
        </div>
      ) : null}
      {writing && view === 'poster' ? (
        <fieldset className="no-print m-0 mt-3 flex flex-wrap gap-2 border-0 p-0">
          <legend className="sr-only">Parts of the poster</legend>
          {LEAVABLE.map(([part, label]) => {
            const out = own.own.without.includes(part)
            return (
              <button
                key={part}
                type="button"
                aria-pressed={!out}
                className={`btn min-h-[44px] px-3 ${out ? 'border-dashed text-quiet' : ''}`}
                onClick={() => own.leave(part, !out)}
              >
                {out ? `${label}: left out` : label}
              </button>
            )
          })}
          {FURTHER.filter(([part]) => report.conclusion?.[part].length).map(([part, label]) => {
            const inside = own.own.also.includes(part)
            return (
              <button
                key={part}
                type="button"
                aria-pressed={inside}
                className={`btn min-h-[44px] px-3 ${inside ? '' : 'border-dashed text-quiet'}`}
                onClick={() => own.take(part, !inside)}
              >
                {inside ? label : `${label}: left out`}
              </button>
            )
          })}
        </fieldset>
      ) : null}
      <div className="mt-5 print:mt-0">
        {view === 'poster' ? (
          <Poster report={report} seen={seen} own={own.own} write={writing ? own.write : undefined} paper={paper} />
        ) : view === 'folder' ? (
          <Folder report={report} seen={seen} own={own.own} write={writing ? own.write : undefined} onComment={own.comment} />
        ) : view === 'card' ? (
          <Card report={report} own={own.own} write={writing ? own.write : undefined} />
        ) : (
          <>
            <h1 className="m-0 mb-4 text-[2.4rem]">{report.study.draft.question || report.study.title}</h1>
            <Podium places={report.places} looks={report.looks} said={report.places_said} tall />
            <Final report={report} />
          </>
        )}
      </div>
    </div>
  )
}

/** The best of each group, or of the podium, called to one last contest: a study of its own under the same rule. */
function Final({ report }: { report: Report }) {
  const go = useNavigate()
  const [says, setSays] = useState('')
  const call = async () => {
    try {
      const path = { study_id: report.study.id, report_id: report.id }
      const made = await ask(api.POST('/api/studies/{study_id}/reports/{report_id}/final', { params: { path }, body: { id: uuid() } }))
      await anew(['home'])
      void go(`/study/${made.id}/plan`)
    } catch (why) {
      if (!(why instanceof Refusal)) throw why
      setSays(why.message)
    }
  }
  return (
    <div className="no-print mt-4">
      <button type="button" className="btn" onClick={() => void call()}>
        Call a final of the best
      </button>
      <Told says={says} />
    </div>
  )
}
