import { counted } from '../parts/counted'
import { type ChangeEvent, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { v4 as uuid } from 'uuid'
import { api, ask, type Came, Refusal, type TableColumn } from '../data/api'
import { anew, useFamilies } from '../data/queries'
import { takeWaiting } from '../data/waitingFile'
import { Frame } from '../parts/Frame'
import { Field, Says, Tick, Told } from '../parts/parts'

const MOST_MB = 5
const UNASKED = { blanks: 'ask', leave_bad: false } as const
/** What becomes of a column that is neither the variable nor a reading. */
const BECOMES: Record<TableColumn['becomes'], string> = {
  order: 'the order of the trials',
  block: 'the block',
  group: 'the group',
  device: 'the device',
  person: 'who released it',
  state: 'kept or void',
  fault: 'the fault of a void trial',
  note: 'the note',
  behaviour: 'how it behaved',
  timer: 'one of several timers',
  outcome: 'the outcome (void: a void trial)',
  version: 'the version',
  specimen: 'which of several alike',
  rung: 'the height it fell from',
  held: 'how something was held',
  column: 'kept beside each trial',
}

/** A results table (CSV) becomes a new study: choose which column is the variable and which the reading. */
export function ReadIn() {
  const families = useFamilies()
  const go = useNavigate()
  const [id] = useState(() => uuid())
  const [text, setText] = useState('')
  const [columns, setColumns] = useState<TableColumn[]>([])
  const [rows, setRows] = useState(0)
  const [title, setTitle] = useState('')
  const [family, setFamily] = useState('launcher')
  const [factor, setFactor] = useState('')
  const [response, setResponse] = useState('')
  const [also, setAlso] = useState('')
  const [says, setSays] = useState('')
  const [busy, setBusy] = useState(false)
  const [came, setCame] = useState<Came[]>([])
  const [notes, setNotes] = useState<string[]>([])
  const [asNames, setAsNames] = useState(false)
  /** What is asked about the table before it becomes a study: rows below a name, or rows that cannot be understood. */
  const [open, setOpen] = useState<'' | 'blanks' | 'bad'>('')
  const [answers, setAnswers] = useState<{ blanks: 'ask' | 'same' | 'none'; leave_bad: boolean }>(UNASKED)

  /** A data package that Bendro wrote becomes a study equal to the packed one. */
  const readPackage = async (file: File) => {
    setBusy(true)
    try {
      const path = { study_id: id }
      const study = await ask(
        api.PUT('/api/studies/{study_id}/package', {
          params: { path, query: { title: '' } },
          body: file as unknown as string,
          bodySerializer: () => file,
          headers: { 'Content-Type': 'application/octet-stream' },
        }),
      )
      void anew(['home'])
      go(`/study/${study.id}/work-out`)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    } finally {
      setBusy(false)
    }
  }
  /** What waited in a browser and was saved there goes into its studies. */
  const readWaiting = async (file: File) => {
    setBusy(true)
    try {
      const found = await takeWaiting(await file.text())
      void anew(['home'])
      setCame(found)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    } finally {
      setBusy(false)
    }
  }
  const choose = async (e: ChangeEvent<HTMLInputElement>) => {
    const file = e.target.files?.[0]
    if (!file) return
    setSays('')
    setOpen('')
    setAnswers(UNASKED)
    setColumns([])
    setCame([])
    if (/\.zip$/i.test(file.name)) return void (await readPackage(file))
    if (/\.json$/i.test(file.name)) return void (await readWaiting(file))
    if (file.size > MOST_MB * 1_000_000) {
      setSays(`The file has ${(file.size / 1e6).toFixed(1)} MB; a results table has at most ${MOST_MB} MB. Keep only the columns that are needed.`)
      return
    }
    let read: string
    try {
      read = new TextDecoder('utf-8', { fatal: true }).decode(await file.arrayBuffer())
    } catch {
      setSays('This file is not UTF-8 text. Save the sheet as “CSV UTF-8” and choose it again.')
      return
    }
    try {
      const found = await ask(api.POST('/api/tables', { body: { text: read } }))
      setText(read)
      setColumns(found.columns)
      setRows(found.rows)
      setNotes(found.notes)
      const free = found.columns.filter((c) => c.becomes === 'column').map((c) => c.header)
      setFactor(free[0] ?? found.columns[0]?.header ?? '')
      setResponse(free[1] ?? found.columns[1]?.header ?? '')
      setAlso(found.columns.some((c) => c.becomes === 'behaviour') ? (free[2] ?? '') : '')
      setTitle((t) => t || file.name.replace(/\.csv$/i, ''))
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  const choices = columns.filter((c) => ['column', 'group', 'device', 'person', 'block', 'outcome'].includes(c.becomes)).map((c) => c.header)
  const make = async (answered = answers) => {
    setBusy(true)
    setSays('')
    setOpen('')
    setAnswers(answered)
    try {
      const body = { id, text, title, family, factor, response, also: also ? [also] : [], as_names: asNames, ...answered }
      const study = await ask(api.POST('/api/tables/study', { body }))
      void anew(['home'])
      go(`/study/${study.id}/work-out`)
    } catch (why) {
      if (why instanceof Refusal) setOpen(why.code === 'cells_merged' ? 'blanks' : why.where?.startsWith('row ') ? 'bad' : '')
      setSays(why instanceof Error ? `${why.message}${'where' in why && why.where ? ` (${String(why.where)})` : ''}` : String(why))
    } finally {
      setBusy(false)
    }
  }
  return (
    <Frame title="Import a results table">
      <div className="mx-auto w-full max-w-[44rem] px-4 py-8">
        <h1 className="m-0 text-[2.6rem]">Import a results table</h1>
        <p className="text-[1.1rem]">
          A CSV file with a header row and a row for each trial. A unit may stand in brackets: “distance (cm)”. Cells may be written as in Run: 4.52, ≥3.8, ~40
          ft. A data package (zip) that Bendro wrote brings the whole study back: its plan, its trials and its versions. What waited in a browser and was saved
          there as a file (json) goes into its study.
        </p>
        <form
          className="mt-6 grid gap-6"
          onSubmit={(e) => {
            e.preventDefault()
            void make()
          }}
        >
          <Field label="The file">
            {(p) => (
              <input
                {...p}
                type="file"
                accept=".csv,text/csv,text/plain,.zip,application/zip,.json,application/json"
                className="field py-3"
                onClick={(e) => {
                  e.currentTarget.value = '' // the same file again is looked at again
                }}
                onChange={(e) => void choose(e)}
              />
            )}
          </Field>
          {columns.length ? (
            <>
              <p className="m-0">{counted(rows, 'row')}.</p>
              {notes.map((n) => (
                <p key={n} className="m-0">
                  {n}
                </p>
              ))}
              <dl className="m-0 grid grid-cols-[auto_1fr] gap-x-6 gap-y-1" data-columns>
                {columns.map((c) => (
                  <div key={c.header} className="contents">
                    <dt className="font-semibold">{c.header}</dt>
                    <dd className="m-0">
                      {c.header === factor
                        ? 'what was changed'
                        : c.header === response
                          ? 'what was read'
                          : c.header === also
                            ? 'the second measure'
                            : BECOMES[c.becomes]}
                    </dd>
                  </div>
                ))}
              </dl>
              <div className="grid gap-6 md:grid-cols-2">
                <Choice label="What was changed" value={factor} options={choices} onChange={setFactor} />
                <Choice label="What was read" value={response} options={choices} onChange={setResponse} />
                <Choice label="A second measure" value={also} options={['', ...choices.filter((c) => c !== factor && c !== response)]} onChange={setAlso} />
              </div>
              <Tick checked={asNames} onChange={setAsNames}>
                The levels are names, though they are written as numbers (designs 1, 2, 3).
              </Tick>
              <Field label="Family of devices">
                {(p) => (
                  <span className="pick">
                    <select {...p} className="field" value={family} onChange={(e) => setFamily(e.target.value)}>
                      {families.data?.map((f) => (
                        <option key={f.id} value={f.id}>
                          {f.name}
                        </option>
                      ))}
                    </select>
                  </span>
                )}
              </Field>
              <Field label="Title of the study">{(p) => <input {...p} className="field" value={title} onChange={(e) => setTitle(e.target.value)} />}</Field>
              <button type="submit" className="btn btn-act" disabled={busy}>
                Make the study
              </button>
            </>
          ) : null}
          {came.length ? (
            <ul className="m-0 list-none p-0" data-came>
              {came.map((c) => (
                <li key={c.study_id} className="hair grid gap-1 py-3">
                  <span>
                    <Link to={`/study/${c.study_id}/trials`}>{c.title}</Link>: {c.kept === 1 ? '1 trial is' : `${c.kept} trials are`} there
                    {c.made ? ', in a new study, since the one that they were kept for is not here any more' : ''}.
                  </span>
                  {c.refused.map((r) => (
                    <Says key={r}>{r}</Says>
                  ))}
                </li>
              ))}
            </ul>
          ) : null}
          <Told says={says} />
          {open === 'blanks' ? (
            <div className="flex flex-wrap gap-3" data-blanks>
              <button type="button" className="btn" disabled={busy} onClick={() => void make({ ...answers, blanks: 'same' })}>
                The name above is meant
              </button>
              <button type="button" className="btn" disabled={busy} onClick={() => void make({ ...answers, blanks: 'none' })}>
                They have none
              </button>
            </div>
          ) : open === 'bad' ? (
            <div>
              <button type="button" className="btn" disabled={busy} onClick={() => void make({ ...answers, leave_bad: true })}>
                Make the study without these rows
              </button>
            </div>
          ) : null}
        </form>
      </div>
    </Frame>
  )
}

function Choice({ label, value, options, onChange }: { label: string; value: string; options: string[]; onChange: (v: string) => void }) {
  return (
    <Field label={label}>
      {(p) => (
        <span className="pick">
          <select {...p} className="field" value={value} onChange={(e) => onChange(e.target.value)}>
            {options.map((o) => (
              <option key={o} value={o}>
                {o || 'none'}
              </option>
            ))}
          </select>
        </span>
      )}
    </Field>
  )
}
