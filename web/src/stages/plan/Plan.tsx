import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { api, ask, type Draft, type Family, type Problem, type Study } from '../../data/api'
import { client, useFamilies, useStudy } from '../../data/queries'
import { Frame } from '../../parts/Frame'
import { Field, Says, Skeleton, Trouble } from '../../parts/parts'
import { Levels } from './Levels'
import { MeasurePart } from './MeasurePart'
import { useDraft } from './useDraft'

export function Plan() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const families = useFamilies()
  if (study.isPending || families.isPending) return <Skeleton lines={6} />
  if (study.isError) return <Trouble error={study.error} again={() => void study.refetch()} />
  if (families.isError) return <Trouble error={families.error} again={() => void families.refetch()} />
  return <Planning key={id} study={study.data} families={families.data} />
}

const OTHER = '…'

function Planning({ study, families }: { study: Study; families: Family[] }) {
  const { draft, change, saving, settle, send } = useDraft(study)
  const go = useNavigate()
  const family = families.find((f) => f.id === draft.family)
  const problems = study.problems
  // What is only empty so far is asked for quietly; what is typed and cannot be is said plainly.
  const empty = (p: Problem) => p.code.endsWith('_missing') || (p.code === 'family_unknown' && !draft.family) || (p.code === 'levels_few' && draft.variable.levels.length === 0)
  const at = (where: string) => (saving.state === 'refused' && saving.where === where ? saving.says : problems.find((p) => p.where === where && p.grave && !empty(p))?.says)
  const asked = (where: string) => problems.find((p) => p.where === where && (!p.grave || empty(p)))?.says
  const grave = problems.filter((p) => p.grave)
  const start = async () => {
    await send()
    go(`/study/${study.id}/run`)
  }
  return (
    <Frame study={study} title={`Plan: ${study.title}`}>
      <div className="mx-auto grid w-full max-w-[84rem] grid-cols-[minmax(0,1fr)] gap-x-14 px-4 py-6 md:grid-cols-[minmax(0,1fr)_20rem] md:px-8">
        <div className="grid content-start gap-9">
          <h1 className="sr-only">Plan: {study.title}</h1>
          <Part n="1" title="The question">
            <Field label="What will the trials answer?" says={at('question')} hint={asked('question')}>
              {(p) => <textarea {...p} rows={2} className="field resize-none text-[1.35rem] font-semibold leading-snug" value={draft.question} placeholder="How does … change …?" onChange={(e) => change({ question: e.target.value })} />}
            </Field>
            <Field label="Family of devices" says={at('family')} hint={family ? family.covers : asked('family')}>
              {(p) => (
                <span className="pick">
                  <select {...p} className="field" value={draft.family} onChange={(e) => change({ family: e.target.value })}>
                    <option value="">Choose …</option>
                    {families.map((f) => (
                      <option key={f.id} value={f.id}>
                        {f.name}
                      </option>
                    ))}
                  </select>
                </span>
              )}
            </Field>
          </Part>
          <Part n="2" title="The one thing to change">
            <VariablePart draft={draft} family={family} change={change} at={at} asked={asked} />
            <Levels draft={draft} change={change} problems={problems} refused={at('variable.levels')} asked={asked('variable.levels')} />
          </Part>
          <Part n="3" title="What is measured">
            <MeasurePart where="measure" value={draft.measure} family={family} at={at} asked={asked} onChange={(measure) => change({ measure })} />
            {draft.also ? (
              <div className="hair pt-4">
                <MeasurePart where="also" value={draft.also} family={family} at={at} asked={asked} onChange={(also) => change({ also })} />
                <button type="button" className="btn btn-plain" onClick={() => change({ also: null })}>
                  Leave the second measure out
                </button>
              </div>
            ) : (
              <button type="button" className="btn btn-plain justify-self-start" onClick={() => change({ also: { ...draft.measure, name: '', rule: '', timed: false, timers: 1, step: '' } })}>
                Read a second thing at each trial
              </button>
            )}
          </Part>
          <Part n="4" title="How often, and who">
            <div className="grid gap-6 md:grid-cols-[10rem_1fr]">
              <Field label="Repeats of each level" says={at('repeats')} hint={asked('repeats')}>
                {(p) => <Whole {...p} value={draft.repeats} onChange={(repeats) => change({ repeats })} />}
              </Field>
              <Field label="Groups, by label, with commas between" says={at('groups')} hint="Birds, colours, numbers; no names of pupils. They take turns.">
                {(p) => <Groups {...p} value={draft.groups} onChange={(groups) => change({ groups })} />}
              </Field>
            </div>
            <Field label="Order of trials" hint={ORDERS.find((o) => o.id === draft.order)?.why}>
              {(p) => (
                <span className="pick">
                  <select {...p} className="field" value={draft.order} onChange={(e) => change({ order: e.target.value as Draft['order'] })}>
                    {ORDERS.map((o) => (
                      <option key={o.id} value={o.id}>
                        {o.label}
                      </option>
                    ))}
                  </select>
                </span>
              )}
            </Field>
          </Part>
          <Part n="5" title="The prediction">
            <Field label="What will happen, and why?" says={at('prediction')} hint={asked('prediction') ?? 'Locked when the first trial is kept.'}>
              {(p) => <textarea {...p} rows={2} className="field resize-none" value={draft.prediction} onChange={(e) => change({ prediction: e.target.value })} />}
            </Field>
            <Field label="In short">
              {(p) => (
                <span className="pick">
                  <select {...p} className="field" value={draft.expect} onChange={(e) => change({ expect: e.target.value })}>
                    <option value="">not said</option>
                    {expectations(draft).map(([value, label]) => (
                      <option key={value} value={value}>
                        {label}
                      </option>
                    ))}
                  </select>
                </span>
              )}
            </Field>
          </Part>
          <Part n="6" title="How it will be judged">
            <div className="grid gap-6 md:grid-cols-2">
              <Field label="A difference is real when" hint={SCHOOLS.find((s) => s.id === draft.evidence)?.why}>
                {(p) => (
                  <span className="pick">
                    <select {...p} className="field" value={draft.evidence} onChange={(e) => change({ evidence: e.target.value as Draft['evidence'] })}>
                      {SCHOOLS.map((s) => (
                        <option key={s.id} value={s.id}>
                          {s.label}
                        </option>
                      ))}
                    </select>
                  </span>
                )}
              </Field>
              <Field label="Reading level" hint="Which statistics are shown and how they are worded; what is stored is the same.">
                {(p) => (
                  <span className="pick">
                    <select {...p} className="field" value={draft.reading_level} onChange={(e) => change({ reading_level: e.target.value as Draft['reading_level'] })}>
                      <option value="first">first (ages 7 to 10)</option>
                      <option value="middle">middle (ages 11 to 14)</option>
                      <option value="senior">senior (ages 15 to 18)</option>
                    </select>
                  </span>
                )}
              </Field>
            </div>
          </Part>
        </div>
        <aside className="mt-10 content-start self-start border-t-[8px] border-tape pt-4 md:sticky md:top-4 md:mt-0" aria-label="The plan so far">
          <p className="big m-0 text-[4.6rem] leading-none">{study.planned}</p>
          <p className="m-0 text-[1.1rem]">{study.planned ? `trials: ${draft.variable.levels.length} levels × ${draft.repeats} repeats` : 'trials planned yet'}</p>
          <Lesson study={study} />
          {grave.length ? (
            <>
              <h2 className="mt-6 mb-1 text-[1.25rem]">Still missing</h2>
              <ul className="m-0 grid list-none gap-2 p-0">
                {grave.slice(0, 6).map((p: Problem) => (
                  <li key={p.where + p.code}>{p.says}</li>
                ))}
              </ul>
            </>
          ) : (
            <button type="button" className="btn btn-act mt-6 min-h-[64px] w-full text-[1.25rem]" onClick={() => void start()}>
              {study.kept ? 'Go on with the run' : 'Go to the run'}
            </button>
          )}
          <div role="status" aria-live="polite" className="mt-4 text-quiet">
            {saving.state === 'saved' ? 'Saved.' : saving.state === 'saving' ? 'Saving …' : saving.says}
          </div>
          {saving.state === 'clash' && saving.theirs ? (
            <div className="mt-2 grid gap-2" role="alert">
              <p className="m-0">
                Theirs: “{saving.theirs.draft.question}”, {saving.theirs.draft.variable?.levels?.join(', ')}, {saving.theirs.draft.repeats} repeats.
              </p>
              <button type="button" className="btn" onClick={() => settle('mine')}>
                Keep mine
              </button>
              <button type="button" className="btn" onClick={() => settle('theirs')}>
                Take theirs
              </button>
            </div>
          ) : null}
          {saving.state === 'refused' ? (
            <button type="button" className="btn mt-2" onClick={() => change(study.draft)}>
              Go back to the saved plan
            </button>
          ) : null}
          {study.kept ? (
            <p className="mt-4">
              <Link to={`/study/${study.id}/work-out`} className="text-line">
                Work out what there is
              </Link>
            </p>
          ) : null}
        </aside>
      </div>
    </Frame>
  )
}

const ORDERS: { id: Draft['order']; label: string; why: string }[] = [
  { id: 'blocks', label: 'shuffled in blocks (advised)', why: 'Each block has every level once, shuffled: tiredness and slackening bands fall on all levels alike.' },
  { id: 'listed', label: 'as listed', why: 'Level after level: order and level cannot be told apart afterwards.' },
  { id: 'random', label: 'fully random', why: 'All trials shuffled together; by bad luck one level can still come mostly early.' },
]
const SCHOOLS: { id: Draft['evidence']; label: string; why: string }[] = [
  { id: 'shuffle', label: 'shuffling rarely gives it (advised)', why: 'How often dealing the readings anew among the levels gives a difference as large.' },
  { id: 'interval', label: 'the 95 % interval excludes zero', why: 'The usual interval of a difference or slope.' },
  { id: 'ranges', label: 'the ranges do not overlap', why: 'Simple and strict; it pays no regard to how many trials there were.' },
]

function expectations(draft: Draft): [string, string][] {
  if (draft.variable.kind === 'number') return [['rises', 'it rises'], ['falls', 'it falls'], ['peak', 'a best in the middle'], ['none', 'no effect']]
  return [...draft.variable.levels.filter((l) => l.trim()).map((l): [string, string] => [l.trim(), `${l.trim()} is best`]), ['none', 'no effect']]
}

function Part({ n, title, children }: { n: string; title: string; children: React.ReactNode }) {
  return (
    <section aria-label={title} className="grid gap-5 border-t-2 border-ink pt-3">
      <h2 className="m-0 text-[1.7rem]">
        <span className="mr-3 text-quiet">{n}</span>
        {title}
      </h2>
      {children}
    </section>
  )
}

/** A whole number typed as text: an empty field is not 0, and nothing is clamped. */
function Whole({ value, onChange, ...p }: { value: number; onChange: (n: number) => void; id: string }) {
  const [text, setText] = useState(String(value))
  const bad = !/^\d{1,6}$/.test(text.trim())
  return (
    <>
      <input
        {...p}
        inputMode="numeric"
        className="field big text-[1.6rem]"
        value={text}
        onChange={(e) => {
          setText(e.target.value)
          if (/^\d{1,6}$/.test(e.target.value.trim())) onChange(Number(e.target.value))
        }}
      />
      {bad ? <Says>Write a whole number, such as 5.</Says> : null}
    </>
  )
}

function Groups({ value, onChange, ...p }: { value: string[]; onChange: (g: string[]) => void; id: string }) {
  const [text, setText] = useState(value.join(', '))
  return (
    <input
      {...p}
      className="field"
      value={text}
      placeholder="Red, Blue, Green"
      onChange={(e) => {
        setText(e.target.value)
        onChange(e.target.value.split(/[,;\n]/).map((g) => g.trim()).filter((g) => g !== ''))
      }}
    />
  )
}

function Lesson({ study }: { study: Study }) {
  const [says, setSays] = useState('')
  const save = async (day: string) => {
    try {
      const now = client.getQueryData<Study>(['study', study.id]) ?? study
      const body = { version: now.version, next_lesson: day || 'clear' } as never
      client.setQueryData(['study', study.id], await ask(api.PATCH('/api/studies/{study_id}', { params: { path: { study_id: study.id } }, body })))
      void client.invalidateQueries({ queryKey: ['home'] })
      setSays('')
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <div className="mt-4">
      <Field label="Next lesson" says={says}>
        {(p) => <input {...p} type="date" className="field" defaultValue={study.next_lesson ?? ''} onChange={(e) => void save(e.target.value)} />}
      </Field>
    </div>
  )
}

function VariablePart({ draft, family, change, at, asked }: { draft: Draft; family: Family | undefined; change: (p: Partial<Draft>) => void; at: (w: string) => string | undefined; asked: (w: string) => string | undefined }) {
  const v = draft.variable
  const known = family?.variables.find((x) => x.name === v.name && x.unit === v.unit && x.kind === v.kind)
  const [own, setOwn] = useState(Boolean(v.name) && !known)
  const pick = (name: string) => {
    if (name === OTHER) {
      setOwn(true)
      change({ variable: { ...v, name: '' } })
      return
    }
    setOwn(false)
    const found = family?.variables.find((x) => x.name === name)
    if (!found) return
    const untouched = v.levels.every((l) => l.trim() === '')
    change({ variable: { name, kind: found.kind, quantity: found.quantity ?? 'number', unit: found.unit, levels: untouched || v.name !== name ? found.typical.map(String) : v.levels } })
  }
  return (
    <div className="grid gap-6 md:grid-cols-2">
      <Field label="Variable" says={own ? undefined : at('variable.name')} hint={known?.hint || asked('variable.name')}>
        {(p) => (
          <span className="pick">
            <select {...p} className="field" value={own ? OTHER : (known?.name ?? '')} onChange={(e) => pick(e.target.value)}>
              <option value="">Choose …</option>
              {family?.variables.map((x) => (
                <option key={x.name} value={x.name}>
                  {x.name}
                  {x.unit && x.unit !== 'count' ? ` (${x.unit})` : ''}
                </option>
              ))}
              <option value={OTHER}>something else …</option>
            </select>
          </span>
        )}
      </Field>
      {own ? (
        <div className="grid gap-6 md:grid-cols-2">
          <Field label="Its name" says={at('variable.name')}>
            {(p) => <input {...p} className="field" value={v.name} onChange={(e) => change({ variable: { ...v, name: e.target.value } })} />}
          </Field>
          <Field label="Its levels are" says={at('variable.unit')}>
            {(p) => (
              <span className="pick">
                <select
                  {...p}
                  className="field"
                  value={v.kind === 'name' ? 'name' : `${v.quantity}:${v.unit}`}
                  onChange={(e) => {
                    const [quantity, unit] = e.target.value.split(':')
                    change({ variable: e.target.value === 'name' ? { ...v, kind: 'name', quantity: 'number', unit: '' } : { ...v, kind: 'number', quantity: quantity ?? 'number', unit: unit ?? '' } })
                  }}
                >
                  <option value="name">names</option>
                  <option value="number:">plain numbers</option>
                  {UNITS.map(([q, u]) => (
                    <option key={q + u} value={`${q}:${u}`}>
                      {q} in {u}
                    </option>
                  ))}
                </select>
              </span>
            )}
          </Field>
        </div>
      ) : null}
    </div>
  )
}

export const UNITS: [string, string][] = [
  ['length', 'mm'], ['length', 'cm'], ['length', 'm'], ['length', 'in'], ['length', 'ft'], ['time', 's'], ['time', 'min'], ['mass', 'g'], ['mass', 'kg'], ['mass', 'oz'],
  ['angle', '°'], ['speed', 'm/s'], ['count', 'count'], ['voltage', 'V'], ['area', 'cm²'], ['volume', 'ml'], ['pressure', 'bar'],
]
