import { NotOpened } from '../../parts/NotOpened'
import { useState } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'
import { type Analysis, Refusal, type Study, type Trial, type Version } from '../../data/api'
import { useAnalysis, useBeside, useFamilies, useStudy, useTrials, useVersions } from '../../data/queries'
import { levelIndex } from '../../data/trials'
import { useTrialsSeen } from '../../data/useTrialsSeen'
import { AtWork } from '../../parts/AtWork'
import { ANSWER } from '../../parts/answer'
import { Empty } from '../../parts/Empty'
import { Frame } from '../../parts/Frame'
import { glued } from '../../parts/glue'
import { PaperHead } from '../../parts/PaperHead'
import { Says, Skeleton, Trouble } from '../../parts/parts'
import { Ladder } from '../../tape/Ladder'
import { flagOf, flagWord, letGoTogether, marksOf, tapeLevels, unitOf } from '../../tape/marks'
import { Shares } from '../../tape/Shares'
import { Tape } from '../../tape/Tape'
import { ActControl, Out, Within } from './Acts'
import { BesidePart, Costs, Lacking, Shared, Survived, WorkedTrials } from './Beside'
import { Choosing, Over, over } from './Choosing'
import { Doubts } from './Doubts'
import { Drawn } from './Drawn'
import { EffectNumbers } from './EffectNumbers'
import { Headline } from './Headline'
import { How, type HowAsked } from './How'
import { InShort, Numbers } from './Numbers'
import { WhatIf } from './WhatIf'

export function WorkOut() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const [search, setSearch] = useSearchParams()
  const response = search.get('measure') ?? ''
  const factor = search.get('over') ?? ''
  const analysis = useAnalysis(id, response, factor)
  const trials = useTrials(id, false, !analysis.isPending) // the verdict first: of a large study the trials take longer than it
  const choose = (next: { measure?: string; over?: string }) => {
    const now = { measure: response, over: factor, ...next }
    setSearch(Object.fromEntries(Object.entries(now).filter(([, v]) => v)), { replace: true })
  }
  if (study.isLoadingError || trials.isLoadingError)
    return <NotOpened error={study.error ?? trials.error} again={() => void Promise.all([study.refetch(), trials.refetch()])} />
  if (!study.data || analysis.isPending) return <Skeleton lines={6} />
  return (
    <Frame study={study.data} title={`Work out: ${study.data.title}`}>
      {analysis.isError ? (
        analysis.error instanceof Refusal && analysis.error.code === 'plan_not_ready' ? (
          <Empty title="Nothing to work out yet" says={[analysis.error.message]} to={`/study/${id}/plan`} act="Go on planning" />
        ) : (
          <Trouble error={analysis.error} again={() => void analysis.refetch()} />
        )
      ) : (
        <Worked key={`${response} ${factor}`} study={study.data} trials={trials.data} a={analysis.data} response={response} factor={factor} onChoose={choose} />
      )}
    </Frame>
  )
}

const NONE_YET: readonly Trial[] = []
/** So high may the rows of the levels be, that verdict, tape, numbers and doubts stand on one screen. */
const ROWS_HIGH = 340
/** Of more levels than these the whole table is folded. */
const MANY = 6
function Worked({
  study,
  trials,
  a,
  response,
  factor,
  onChoose,
}: {
  study: Study
  trials: Trial[] | undefined
  a: Analysis
  response: string
  factor: string
  onChoose: (next: { measure?: string; over?: string }) => void
}) {
  const seen = useTrialsSeen(study, trials ?? NONE_YET)
  const beside = useBeside(study.id).data
  const families = useFamilies()
  const shown = study.responses.find((r) => r.id === (response || study.draft.measures[0]?.id))
  const of = shown?.id ?? ''
  const ladder = shown?.shape === 'rungs' && !shown.every && !factor // the highest rung has no mean and no spread
  const [how, setHow] = useState<HowAsked | null>(null)
  const first = study.draft.reading_level === 'first'
  const unit = a.response.unit ?? ''
  const drawn = factor
    ? over(a, seen, factor).map((l) => ({ ...l, marks: marksOf(l.trials, of, unit) }))
    : tapeLevels(study, seen, undefined, undefined, of, unit)
  const versions = useVersions(study.id).data ?? []
  const rounds = study.draft.study_kind === 'design_rounds' && !factor
  const levels = drawn.map((l, i) => {
    const s = a.levels.find((x, at) => (factor ? at === i : levelIndex(study, x.level) === i))
    const row = rounds ? { ...l, note: changesOf(versions, l.label) } : l
    return s && s.n_kept > 0 ? { ...row, ...flagOf(s, study), low: s.min, high: s.max } : row
  })
  // of many levels the numbers in short stand beside the verdict; every column of them is one press away
  const folds = a.levels.length > MANY && a.effect.kind !== 'survival' && !factor
  const [whole, setWhole] = useState(false)
  const waiting = seen.filter((t) => t.saved !== 'yes').length
  const said = a.verdict.spans.filter((x) => x.holds !== 'interval').reduce((n, x) => n + x.text.length, 0)
  const many = study.responses.filter((r) => r.shape !== 'behaviour').length > 1
  return (
    <div className="grid w-full grid-cols-[minmax(0,1fr)] gap-x-10 px-4 py-5 md:grid-cols-[minmax(0,1fr)_22rem] md:px-8 print:block print:p-0">
      <div className="min-w-0">
        <PaperHead study={study} />
        <div className="m-0 flex flex-wrap items-center gap-x-3 gap-y-1 font-semibold">
          <span
            className={`inline-block border-2 border-ink px-3 py-0.5 ${a.verdict.answer === 'clear' ? 'bg-ink text-floor' : a.verdict.answer === 'leaning' ? 'border-dashed' : ''}`}
            data-answer
          >
            {a.verdict.so_far ? `So far: ${ANSWER[a.verdict.answer].toLowerCase()}` : ANSWER[a.verdict.answer]}
          </span>
          {many ? (
            <Choosing study={study} response={of} onChoose={onChoose} />
          ) : (
            <span className="min-w-0 [overflow-wrap:anywhere] text-quiet no-print md:max-w-[40rem] md:truncate">{study.draft.question}</span>
          )}
        </div>
        <h1 className={`m-0 mt-2 max-w-[60rem] ${said < 70 ? 'text-[2.4rem]' : 'text-[2rem]'} max-md:text-[1.8rem]`}>
          <Headline a={a} />
        </h1>
        {a.verdict.more.length ? (
          <p className="m-0 mt-1 max-w-[60rem] text-[1.15rem] leading-snug" data-more>
            {glued(a.verdict.more.map((s) => s.text).join(''))}
          </p>
        ) : null}
        {[...a.against.slice(1).map((x) => x.says), ...(a.lean ? [a.lean] : [])].map((says) => (
          <p key={says} className="m-0 mt-1 max-w-[60rem] leading-snug">
            {glued(says)}
          </p>
        ))}
        <p className="m-0 mt-2 max-w-[60rem] leading-snug text-quiet">
          {a.verdict.prediction ? <span className="text-ink">{glued(a.verdict.prediction)} </span> : null}
          {glued(a.verdict.detail)} {glued(a.verdict.beside)}
        </p>
        {shown?.derived && a.effect.kind === 'none' ? <Lacking seen={seen} response={of} /> : null}
        {waiting ? (
          <Says>{waiting === 1 ? 'One trial in this browser is' : `${waiting} trials in this browser are`} not in this verdict yet: waiting to be sent.</Says>
        ) : null}
        {study.outside ? (
          <Says>
            {study.outside === 1 ? 'One trial stands' : `${study.outside} trials stand`} outside the plan and {study.outside === 1 ? 'counts' : 'count'} for
            nothing here. <Link to={`/study/${study.id}/trials`}>Look at {study.outside === 1 ? 'it' : 'them'}</Link>
          </Says>
        ) : null}
        {!trials ? (
          <div className="min-h-[30rem]">
            <Skeleton part lines={4} />
          </div>
        ) : shown?.shape === 'rungs' && !factor ? (
          <>
            <Ladder study={study} seen={seen} />
            <p className="m-0 mt-2 text-[0.92rem] text-quiet">
              Each column is one specimen. Solid: survived; open and struck: failed
              {ladder ? '; the bracket lies between the last rung passed and the first failed; an arrow up: at least the top rung.' : '. Every rung is run.'}
            </p>
          </>
        ) : shown?.shape === 'survival' ? (
          <Shares study={study} seen={seen} response={of} />
        ) : (
          <Drawn
            study={study}
            seen={seen}
            a={a}
            response={of}
            factor={factor}
            legend={<Legend flag={flagWord(study)} heats={!factor && seen.some((t) => t.heat)} />}
            levels={
              <Tape
                roomy
                fit={ROWS_HIGH}
                levels={levels}
                joined={factor ? [] : letGoTogether(study, seen)}
                unit={unitOf(study, of)}
                caption={`Each level on the tape. ${a.levels.map((l) => `${String(l.level)}: mean ${l.quoted ?? 'none'}, ${l.n_kept} kept, ${l.n_void} void`).join('; ')}.`}
              />
            }
          />
        )}
        <Over study={study} factor={factor} onChoose={onChoose} />
        <div className="mb-2 mt-6 flex flex-wrap items-baseline gap-x-4">
          <h2 className="m-0 text-[1.5rem]">The numbers</h2>
          {folds ? (
            <button type="button" className="btn btn-plain no-print px-0" aria-expanded={whole} onClick={() => setWhole(!whole)}>
              {whole ? 'Fold' : 'All of them, with median, total and spread'}
            </button>
          ) : null}
        </div>
        <div className={folds && !whole ? 'hidden print:block' : ''}>
          {a.effect.kind === 'survival' ? (
            <Survived a={a} study={study} />
          ) : (
            <Numbers a={a} study={study} first={first} ladder={ladder} onHow={(h) => setHow({ ...h, response: of })} factor={factor} />
          )}
        </div>
        {factor || !beside ? null : <Shared beside={beside} study={study} response={of} />}
        {factor || ladder ? null : <EffectNumbers a={a} study={study} first={first} onHow={(h) => setHow({ ...h, response: of })} />}
        {shown?.derived && a.effect.kind !== 'none' ? <Lacking seen={seen} response={of} /> : null}
        {shown?.derived && !factor ? <WorkedTrials study={study} seen={seen} response={of} name={shown.name} onHow={setHow} /> : null}
        <BesidePart study={study} beside={beside} a={a} />
        <Costs a={a} study={study} versions={versions} />
        {factor ? null : <WhatIf study={study} response={of} />}
        <AtWork family={families.data?.find((f) => f.id === study.draft.family)} level={study.draft.reading_level ?? 'middle'} />
      </div>
      <aside className="mt-8 self-start border-l-[8px] border-tape pl-6 md:mt-0 print:mt-5 print:break-inside-avoid" aria-label="Doubts and what to do next">
        <Doubts a={a} study={study} />
        <Within study={study} />
        <h2 className="mb-0 mt-4 text-[1.4rem]">Next</h2>
        <p className="m-0 mt-1 leading-snug">{glued(a.verdict.next)}</p>
        {a.verdict.act && !factor ? <ActControl act={a.verdict.act} study={study} /> : null}
        {a.effect.kind === 'survival' || factor ? null : (
          <InShort a={a} study={study} first={first} ladder={ladder} onHow={(h) => setHow({ ...h, response: of })} />
        )}
        <Out study={study} />
      </aside>
      <How asked={how} study={study} onClose={() => setHow(null)} />
    </div>
  )
}

/** What changed in a version, as it was written down; "" for a first one. */
const changesOf = (versions: readonly Version[], number: string): string => (versions.find((v) => String(v.number) === number)?.changes_said ?? []).join(', ')

function Legend({ flag, heats }: { flag: string; heats: boolean }) {
  return (
    <p className="m-0 mt-2 flex flex-wrap gap-x-4 gap-y-1 text-[0.9rem] text-quiet">
      <span>solid: as read</span>
      <span>open with arrow: at least</span>
      <span>soft: estimate</span>
      <span>crossed ring: void, not in the mean</span>
      <span>flag: {flag}</span>
      <span>bracket: range</span>
      {heats ? <span>thin line: let go together</span> : null}
    </p>
  )
}
