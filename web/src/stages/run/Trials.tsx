import { useState } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'
import type { Family, ReadingGiven, Study, TrialBody } from '../../data/api'
import { behavioursOf, firstOf, firstWritten, type Place, placesOf, readingOf, scaleOf, textsOf, written } from '../../data/measures'
import { useFamilies, useHistory, useStudy, useTakenBack, useTrials } from '../../data/queries'
import { bodyOf, labelOf, levelIndex } from '../../data/trials'
import { useTrialsSeen } from '../../data/useTrialsSeen'
import { queue } from '../../machines/saveQueue'
import type { SeenTrial } from '../../machines/turns'
import { Frame } from '../../parts/Frame'
import { NotOpened } from '../../parts/NotOpened'
import { Line, Pick, Says, Shape, Sheet, Skeleton, Told } from '../../parts/parts'
import { OwnFault } from './FaultSheet'
import { Beside } from './seeing/Beside'
import { BEHAVIOUR, look, readingsOf, type Texts } from './useEntry'

const STATE = { kept: 'kept', void: 'void', withdrawn: 'undone' } as const
const PLACE = { turn: '', extra: 'extra', outside: 'outside the plan', practice: 'practice, not counted' } as const

/** Every trial of a study in every state: looked at, corrected, voided, brought back, placed; each change stays in its history. */
export function Trials() {
  const { id = '' } = useParams()
  const study = useStudy(id, true)
  const trials = useTrials(id, true)
  const families = useFamilies()
  const bad = [study, trials, families].find((q) => q.isLoadingError)
  if (bad) return <NotOpened error={bad.error} again={() => void Promise.all([study.refetch(), trials.refetch()])} />
  if (!study.data || !trials.data || !families.data) return <Skeleton lines={6} />
  return <List key={id} study={study.data} stored={trials.data} family={families.data.find((f) => f.id === study.data.draft.family)} />
}

function List({ study, stored, family }: { study: Study; stored: Parameters<typeof useTrialsSeen>[1]; family: Family | undefined }) {
  const seen = useTrialsSeen(study, stored)
  const [search, setSearch] = useSearchParams()
  const [open, setOpen] = useState('')
  const asked = (search.get('only') ?? '').split(',').filter(Boolean).map(Number)
  const shown = asked.length ? seen.filter((t) => asked.includes(t.number)) : seen
  const trial = seen.find((t) => t.id === open)
  return (
    <Frame study={study} title={`Trials: ${study.title}`}>
      <div className="mx-auto w-full max-w-[76rem] px-4 py-6 md:px-8">
        <h1 className="m-0 text-[2.6rem]">{asked.length ? 'The trials in question' : 'All trials'}</h1>
        <p className="m-0 mt-1 text-[1.05rem]">
          {study.kept} of {study.planned} turns kept
          {study.extra ? `, ${study.extra} extra` : ''}
          {study.void ? `, ${study.void} void` : ''}
          {study.outside ? `, ${study.outside} outside the plan` : ''}. Nothing is deleted: a void trial stays here with its fault.
        </p>
        {asked.length ? (
          <button type="button" className="btn btn-plain px-0" onClick={() => setSearch({}, { replace: true })}>
            Show all {seen.length}
          </button>
        ) : null}
        {shown.length ? (
          <ol className="m-0 mt-4 list-none p-0">
            {shown.map((t) => (
              <li key={t.id} className="hair" data-trial={t.number}>
                <button
                  type="button"
                  className="grid w-full grid-cols-[2.6rem_1fr_auto] items-center gap-x-4 border-0 bg-transparent px-1 py-3 text-left hover:bg-tape/25 md:grid-cols-[3rem_13rem_10rem_1fr_auto]"
                  onClick={() => setOpen(t.id)}
                >
                  <span className="num text-quiet">{t.number || '–'}</span>
                  <span className="flex items-center gap-2 font-semibold">
                    <Shape n={Math.max(0, levelIndex(study, t.level))} size={16} />
                    {labelOf(study, t.level)}
                    <span className="font-normal text-quiet">
                      {t.group || 'class'}, block {t.block}
                    </span>
                  </span>
                  <span className={`big num text-right text-[1.3rem] md:text-left ${t.state === 'void' ? 'line-through' : ''}`}>{firstWritten(study, t)}</span>
                  <span className="col-span-2 col-start-2 md:col-span-1 md:col-start-auto">
                    {t.state === 'void' ? <strong>void: {t.fault}. </strong> : null}
                    {t.place === 'turn' ? null : <strong className="text-doubt">{PLACE[t.place]}. </strong>}
                    {t.why ? `${t.why} ` : ''}
                    {t.saved === 'waiting' ? 'Waiting to be sent. ' : t.saved === 'refused' ? `Not taken: ${t.says} ` : ''}
                    <span className="text-quiet">
                      {[
                        ...further(study, t),
                        ...behavioursOf(t),
                        ...t.derived.filter((d) => d.text).map((d) => d.text),
                        t.version ? `version ${t.version}` : '',
                        t.person,
                        t.note,
                      ]
                        .filter(Boolean)
                        .join(' · ')}
                    </span>
                  </span>
                  <span className="font-semibold underline underline-offset-4 max-md:hidden">Change</span>
                </button>
              </li>
            ))}
          </ol>
        ) : (
          <div className="hair mt-4 pt-5">
            <p className="m-0 mb-4 text-[1.15rem]">No trial yet. Each one stands here as soon as it is kept or void.</p>
            <Link className="btn btn-act" to={`/study/${study.id}/${study.turns.length ? 'run' : 'plan'}`}>
              {study.turns.length ? 'Go to the run' : 'Go on planning'}
            </Link>
          </div>
        )}
      </div>
      <TakenBack study={study} here={seen} />
      <Sheet
        open={trial !== undefined}
        onClose={() => setOpen('')}
        title={trial ? `Trial ${trial.number || ''}: ${labelOf(study, trial.level)}` : 'Trial'}
        wide
      >
        {trial ? <Change key={`${trial.id}:${trial.revision}`} study={study} trial={trial} family={family} onDone={() => setOpen('')} /> : null}
      </Sheet>
    </Frame>
  )
}

/** What was read beside the first measure, as it was written. */
const further = (study: Study, t: SeenTrial): string[] =>
  study.draft.measures.slice(1).flatMap((m) => t.readings.filter((r) => r.measure === m.id).map((r) => `${m.name} ${written(r)}`))

/** Trials that were taken back by undo: they fill nothing, and can be brought back. */
function TakenBack({ study, here }: { study: Study; here: SeenTrial[] }) {
  const gone = (useTakenBack(study.id).data ?? []).filter((t) => !here.some((h) => h.id === t.id))
  if (!gone.length) return null
  return (
    <section aria-label="Undone" className="mx-auto w-full max-w-[76rem] px-4 pb-8 md:px-8">
      <h2 className="m-0 text-[1.5rem]">Undone</h2>
      <ul className="m-0 list-none p-0">
        {gone.map((t) => (
          <li key={t.id} className="hair flex flex-wrap items-center gap-x-6 px-1 py-2" data-taken-back>
            <span className="font-semibold">{labelOf(study, t.level)}</span>
            <span className="text-quiet">
              {t.group || 'class'}, block {t.block}
            </span>
            <span className="big num text-[1.3rem]">{firstWritten(study, t)}</span>
            <span className="grow" />
            <button
              type="button"
              className="btn btn-plain"
              onClick={() =>
                void queue.add({
                  kind: 'trial',
                  studyId: study.id,
                  id: t.id,
                  body: { ...bodyOf(t), state: t.fault ? 'void' : 'kept', revision: t.revision + 1 },
                })
              }
            >
              Restore
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}

/** One trial changed: its readings corrected, made void, brought back, placed in the plan, or given a note. */
function Change({ study, trial, family, onDone }: { study: Study; trial: SeenTrial; family: Family | undefined; onDone: () => void }) {
  const places = placesOf(study.draft)
  const first = firstOf(study.draft)
  const unitOf = (p: Place) => readingOf(trial, p.measure.id, p.payload)?.unit || (scaleOf(p.measure).number ? p.measure.unit : '')
  const [texts, setTexts] = useState<Texts>(() =>
    Object.fromEntries([...places.map((p) => [p.name, textsOf(trial, p.measure.id, p.payload)[p.timer] ?? '']), [BEHAVIOUR, behavioursOf(trial).join('; ')]]),
  )
  const [note, setNote] = useState(trial.note)
  const [level, setLevel] = useState(trial.level)
  const [block, setBlock] = useState(String(trial.block))
  const [says, setSays] = useState('')
  const [asked, setAsked] = useState('')
  const blocks = Array.from({ length: study.draft.repeats ?? 1 }, (_, i) => String(i + 1))
  const send = (part: Partial<TrialBody>) => {
    void queue.add({ kind: 'trial', studyId: study.id, title: study.title, id: trial.id, body: { ...bodyOf(trial), ...part, revision: trial.revision + 1 } })
    onDone()
  }
  /** The readings as they stand here; what was written in another unit keeps it, and so does a measure that the plan no longer has. */
  const readings = async (): Promise<ReadingGiven[] | null> => {
    // what was not touched stays as it was taken
    const made = readingsOf(places, texts).map((r) => {
      const was = readingOf(trial, r.measure, r.payload)
      const same = was && was.texts.join('|') === (r.texts ?? []).join('|')
      return { ...r, unit: was?.unit ?? r.unit ?? '', ...(same ? { taken: was.taken, stamps: was.stamps, source: was.source, clock_s: was.clock_s } : {}) }
    })
    const main = made.filter((r) => r.measure === first.id)
    if (!main.length) {
      setSays('Nothing is written. Write the reading, or make the trial void and name the fault.')
      return null
    }
    const kept = main[0]?.texts ?? []
    const same = kept.join('|') === textsOf(trial, first.id).join('|')
    const looked = await look(study, first, kept, { besides: trial.id, unit: main[0]?.unit || first.unit, level })
    if (looked.state === 'refused') {
      setSays(looked.says)
      return null
    }
    const question = looked.state === 'read' ? looked.questions[0] : undefined
    if (question && !same && asked !== kept.join('|')) {
      setAsked(kept.join('|'))
      setSays(`${question.says} Press again if it is what was read.`)
      return null
    }
    return made
  }
  const correct = async () => {
    const made = await readings()
    if (made) send({ readings: made, note, state: 'kept', fault: '', level, block: Number(block), placed: trial.place === 'outside' })
  }
  const name = (p: Place) =>
    `${p.measure.name || 'reading'}${p.payloadName ? `, ${p.payloadName}` : ''}${p.measure.timers > 1 && p.measure.id === first.id ? `, timer ${p.timer + 1}` : ''}${unitOf(p) && unitOf(p) !== 'count' ? `, ${unitOf(p)}` : ''}`
  return (
    <div className="grid gap-5">
      {trial.why ? <Says>{trial.why} It counts for nothing until it is placed in the plan; or make it void.</Says> : null}
      {trial.place === 'extra' ? (
        <p className="m-0">This turn was kept more than once. All of its readings count for the level; the plan counts the turn once.</p>
      ) : null}
      <div className="grid gap-x-6 gap-y-4 md:grid-cols-3">
        {places.map((p) =>
          scaleOf(p.measure).worded ? (
            <Pick
              key={p.name}
              label={name(p)}
              value={texts[p.name] ?? ''}
              options={[['', 'not judged'], ...p.measure.words.map((w) => [w, w] as const)]}
              onChange={(v) => setTexts({ ...texts, [p.name]: v })}
            />
          ) : (
            <Line key={p.name} label={name(p)} big value={texts[p.name] ?? ''} onChange={(v) => setTexts({ ...texts, [p.name]: v })} />
          ),
        )}
      </div>
      <div className="grid gap-x-6 gap-y-4 md:grid-cols-3">
        <Pick
          label="Level"
          value={level}
          options={[
            ...(study.levels.some((l) => l.id === level) ? [] : [[level, `${level} (not in the plan)`] as const]),
            ...study.levels.map((l) => [l.id, l.label] as const),
          ]}
          onChange={setLevel}
        />
        <Pick
          label="Block"
          value={block}
          options={[...(blocks.includes(block) ? [] : [[block, `${block} (not in the plan)`] as const]), ...blocks.map((b) => [b, b] as const)]}
          onChange={setBlock}
        />
      </div>
      <Line label="Note" rows={2} value={note} onChange={(v) => setNote(v.slice(0, 500))} />
      <Told says={says} />
      <div className="flex flex-wrap gap-3">
        <button type="button" className="btn btn-act" onClick={() => void correct()}>
          {trial.state === 'void' ? 'Restore' : trial.place === 'outside' ? 'Place it in the plan' : 'Save the change'}
        </button>
        {trial.state === 'void' ? (
          <button type="button" className="btn" onClick={() => send({ note })}>
            Save the note only
          </button>
        ) : null}
      </div>
      {trial.state === 'void' ? null : (
        <fieldset className="hair m-0 border-x-0 border-b-0 p-0 pt-4">
          <legend className="sr-only">Make it void</legend>
          <p className="m-0 mb-2 font-semibold">Make it void: what went wrong?</p>
          <div className="flex flex-wrap gap-2">
            {family?.faults.map((f) => (
              <button key={f} type="button" className="btn" onClick={() => send({ state: 'void', fault: f, note })}>
                {f}
              </button>
            ))}
          </div>
          <div className="max-w-md">
            <OwnFault onFault={(own) => send({ state: 'void', fault: own, note })} />
          </div>
        </fieldset>
      )}
      <Beside study={study.id} trial={trial.id} />
      <History study={study.id} trial={trial} />
    </div>
  )
}

function History({ study, trial }: { study: string; trial: SeenTrial }) {
  const history = useHistory(study, trial.id)
  if (trial.saved !== 'yes' || !history.data) return null
  return (
    <section aria-label="History" className="hair pt-3">
      <h2 className="m-0 text-[1.25rem]">History</h2>
      <ol className="m-0 list-none p-0">
        {history.data.map((c) => (
          <li key={c.revision} className="py-1" data-revision={c.revision}>
            <span className="text-quiet">
              {new Date(c.received_at).toLocaleString('en-GB', {
                weekday: 'short',
                day: 'numeric',
                month: 'short',
                hour: '2-digit',
                minute: '2-digit',
                second: '2-digit',
              })}
            </span>{' '}
            {STATE[c.state]} {(c.readings ?? []).map((r) => written({ texts: r.texts ?? [], unit: r.unit ?? '' })).join(', ') || 'without a reading'} at{' '}
            {c.level}, block {c.block}
            {c.fault ? `: ${c.fault}` : ''}
            {c.note ? ` (${c.note})` : ''}
            {c.sent_by ? (
              <span className="text-quiet">
                , sent by {c.sent_by}
                {trial.kept_by && trial.kept_by !== c.sent_by ? ` for ${trial.kept_by}` : ''}
              </span>
            ) : null}
          </li>
        ))}
      </ol>
    </section>
  )
}
