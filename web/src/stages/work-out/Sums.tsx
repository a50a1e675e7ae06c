import { NotOpened } from '../../parts/NotOpened'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { api, ask, Refusal, type Study, type SumChecked } from '../../data/api'
import { typed } from '../../data/keep'
import { firstOf, unitSaid, withUnit } from '../../data/measures'
import { useAnalysis, useStudy, useTrials } from '../../data/queries'
import { levelIndex } from '../../data/trials'
import { useTrialsSeen } from '../../data/useTrialsSeen'
import { Empty } from '../../parts/Empty'
import { Frame } from '../../parts/Frame'
import { PaperHead } from '../../parts/PaperHead'
import { Pick, Skeleton, Tick, Told } from '../../parts/parts'
import type { SeenTrial } from '../../machines/turns'
import { minus } from '../../tape/Plot'

/** A class’s sums: typed or pasted, each marked right or with its slip named; and a sheet of sums from the class's own readings. */
export function Sums() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const trials = useTrials(id)
  if (study.isLoadingError || trials.isLoadingError)
    return <NotOpened error={study.error ?? trials.error} again={() => void Promise.all([study.refetch(), trials.refetch()])} />
  if (!study.data || !trials.data) return <Skeleton lines={5} />
  return <Opened study={study.data} stored={trials.data} />
}

/** What a class worked out: of the first measure, or (by its identity) something that the plan works out, such as a speed. */
type About = string
type Sheet = { who: string[]; texts: Record<string, string> }
const ROWS = 6
const cell = (row: number, level: string) => `${row} ${level}`

function Opened({ study, stored }: { study: Study; stored: Parameters<typeof useTrialsSeen>[1] }) {
  const seen = useTrialsSeen(study, stored)
  const measure = firstOf(study.draft)
  const worksOut = study.responses.filter((r) => r.derived && r.shape === 'number')
  const key = `sums:${study.id}`
  const [sheet, set] = useState<Sheet>(() =>
    typed.get(key)
      ? (JSON.parse(typed.get(key)) as Sheet)
      : { who: Array.from({ length: Math.max(ROWS, study.draft.groups?.length ?? 0) }, (_, i) => study.draft.groups?.[i] ?? ''), texts: {} },
  )
  const [about, setAbout] = useState<About>('mean')
  const [answers, setAnswers] = useState(true)
  const [marked, setMarked] = useState<Record<string, SumChecked>>({})
  const [says, setSays] = useState('')
  const setSheet = (next: Sheet) => {
    typed.set(key, JSON.stringify(next))
    set(next)
    setMarked({})
  }
  /** A table pasted from a spreadsheet goes into the boxes from the one that is written in. */
  const paste = (e: React.ClipboardEvent, row: number, column: number) => {
    const text = e.clipboardData.getData('text')
    if (!/[\t\n]/.test(text)) return
    e.preventDefault()
    const texts = { ...sheet.texts }
    const lines = text
      .replace(/\r/g, '')
      .split('\n')
      .filter((l) => l.trim())
    lines.forEach((line, r) => {
      line.split('\t').forEach((t, c) => {
        const level = study.levels[column + c]
        if (level) texts[cell(row + r, level.id)] = t.trim().slice(0, 40)
      })
    })
    const missing = row + lines.length - sheet.who.length
    setSheet({ who: [...sheet.who, ...Array.from({ length: Math.max(0, missing) }, () => '')], texts })
  }
  const check = async () => {
    setSays('')
    const given = sheet.who.flatMap((who, row) =>
      study.levels.flatMap((l) => ((text) => (text ? [{ key: cell(row, l.id), level: l.id, who, text }] : []))((sheet.texts[cell(row, l.id)] ?? '').trim())),
    )
    const worked = worksOut.some((r) => r.id === about)
    if (!given.length) return setSays('Nothing is written yet. Type a number of a pupil, or paste a table.')
    try {
      const path = { study_id: study.id }
      const found = await ask(
        api.POST('/api/studies/{study_id}/sums', {
          params: { path },
          body: {
            response: worked ? about : '',
            keep: true,
            answers: given.map(({ level, who, text }) => ({ level, who, about: about === 'range' ? ('range' as const) : ('mean' as const), text })),
          },
        }),
      )
      setMarked(Object.fromEntries(given.map((g, i) => [g.key, found[i] as SumChecked])))
    } catch (why) {
      if (!(why instanceof Refusal)) throw why
      setSays(why.message)
    }
  }
  const all = Object.values(marked)
  if (!study.levels.length)
    return (
      <Frame study={study} title={`Sums: ${study.title}`}>
        <Empty
          title="No sums to check yet"
          says={['The plan has no levels yet, so there is nothing to average.']}
          to={`/study/${study.id}/plan`}
          act="Go on planning"
        />
      </Frame>
    )
  return (
    <Frame study={study} title={`Sums: ${study.title}`}>
      <div className="px-4 py-6 md:px-8">
        <div className="no-print">
          <h1 className="m-0 text-[2.6rem]">Check the sums</h1>
          <p className="m-0 mt-1 max-w-[48rem]">
            A row for each pupil or group, a box for each level. Paste a whole table from a spreadsheet into any box. Each answer is held against the trials as
            they were kept.
          </p>
          <div className="mt-4 flex flex-wrap items-end gap-4">
            <Pick
              label="What they worked out"
              value={about}
              options={[
                ['mean', `the mean ${measure.name}`],
                ['range', 'the range, largest less smallest'],
                ...worksOut.map((r) => [r.id, `${r.name}${r.unit ? ` in ${r.unit}` : ''}, for each level`] as const),
              ]}
              onChange={(v) => {
                setAbout(v)
                setMarked({})
              }}
            />
            <button type="button" className="btn btn-act" onClick={() => void check()}>
              Check
            </button>
            <button type="button" className="btn" onClick={() => setSheet({ ...sheet, who: [...sheet.who, ''] })}>
              Another row
            </button>
            <button type="button" className="btn" onClick={() => window.print()}>
              Print a sheet of sums
            </button>
            <Link to={`/study/${study.id}/work-out`} className="btn btn-plain">
              To the verdict
            </Link>
          </div>
          <Tick checked={answers} onChange={setAnswers}>
            Print the answers for the teacher, on a page of their own
          </Tick>
          <p role="status" className="m-0 mt-3 font-semibold" data-sums-said>
            {all.length ? `${all.filter((m) => m.right).length} of ${all.length} right.` : ''}
          </p>
          <Told says={says} />
          <div className="mt-2 overflow-x-auto" tabIndex={0} role="region" aria-label="The class’s sums">
            <table className="w-full border-collapse" data-sums>
              <thead>
                <tr className="border-b-2 border-ink text-left">
                  <th scope="col">Who, by label</th>
                  {study.levels.map((l) => (
                    <th key={l.id} scope="col">
                      {l.label}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {sheet.who.map((who, row) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place on the sheet
                  <tr key={row} className="border-b border-hair align-top">
                    <td className="py-1 pr-3">
                      <input
                        className="field w-36"
                        aria-label={`Row ${row + 1}: who`}
                        value={who}
                        maxLength={30}
                        onChange={(e) => setSheet({ ...sheet, who: sheet.who.map((w, i) => (i === row ? e.target.value : w)) })}
                      />
                    </td>
                    {study.levels.map((l, column) => {
                      const mark = marked[cell(row, l.id)]
                      return (
                        <td key={l.id} className="py-1 pr-3" data-mark={mark ? (mark.right ? 'right' : (mark.slip ?? 'wrong')) : undefined}>
                          <input
                            className={`field big w-24 text-[1.25rem] ${mark && !mark.right ? 'border-dashed' : ''}`}
                            inputMode="decimal"
                            autoComplete="off"
                            aria-label={`${who || `Row ${row + 1}`}, ${l.label}`}
                            value={sheet.texts[cell(row, l.id)] ?? ''}
                            onPaste={(e) => paste(e, row, column)}
                            onChange={(e) => setSheet({ ...sheet, texts: { ...sheet.texts, [cell(row, l.id)]: e.target.value.slice(0, 40) } })}
                          />
                          {mark ? (
                            <p className={`m-0 max-w-[14rem] text-[0.92rem] ${mark.right ? 'text-quiet' : 'font-semibold text-doubt'}`}>
                              {mark.right ? '✓ right' : mark.says}
                            </p>
                          ) : null}
                        </td>
                      )
                    })}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </div>
        <Practice study={study} seen={seen} />
        {answers ? <Answers study={study} /> : null}
      </div>
    </Frame>
  )
}

/** On paper, for the teacher: every answer of the sheet of sums, as the core works it out. */
function Answers({ study }: { study: Study }) {
  const a = useAnalysis(study.id).data
  if (!a) return null
  const unit = a.response.unit ?? ''
  const told = (v: number | null | undefined) => (v === null || v === undefined ? '–' : withUnit(minus(v, 5), unit))
  return (
    <section className="hidden break-before-page print:block" data-answers>
      <PaperHead study={study} what="answers, for the teacher" />
      <table className="num w-full border-collapse text-left">
        <thead>
          <tr className="border-b-2 border-ink">
            {[study.draft.variable.name, 'kept', 'sum', 'mean', 'largest', 'smallest', 'range'].map((h) => (
              <th key={h} scope="col" className="py-1 pr-4">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {a.levels.map((l) => (
            <tr key={String(l.level)} className="border-b border-hair">
              <th scope="row" className="py-1 pr-4">
                {study.levels[levelIndex(study, l.level)]?.label ?? String(l.level)}
              </th>
              <td className="pr-4">{l.n_kept}</td>
              <td className="pr-4">{told(l.total)}</td>
              <td className="pr-4">{told(l.mean)}</td>
              <td className="pr-4">{told(l.max)}</td>
              <td className="pr-4">{told(l.min)}</td>
              <td className="pr-4">{told(l.range)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="m-0 mt-2">Each is given in full; a pupil rounds the mean to what the tool could read.</p>
    </section>
  )
}

/** On paper: the class's own readings of each level, with room for the sums. The answers stand on a page of their own. */
function Practice({ study, seen }: { study: Study; seen: readonly SeenTrial[] }) {
  const measure = firstOf(study.draft)
  return (
    <section className="hidden print:block" data-practice-sums>
      <PaperHead study={study} what="sums from our own readings" />
      {study.levels.map((l, n) => {
        const mine = seen.filter((t) => t.level === l.id && !t.practice && t.place !== 'outside')
        const written = (t: SeenTrial) =>
          t.derived.find((d) => d.id === measure.id)?.text ?? withUnit(t.readings.find((r) => r.measure === measure.id)?.texts[0] ?? '–', unitSaid(measure))
        return mine.length ? (
          <div key={l.id} className="mb-5 break-inside-avoid">
            <p className="m-0 font-bold">
              {n + 1}. {study.draft.variable.name} {l.label}
            </p>
            <p className="m-0">{mine.map((t) => (t.state === 'void' ? `${written(t)} (void: ${t.fault})` : written(t))).join(', ')}</p>
            <p className="m-0 mt-3">Sum: ________________ Divided by: ______ Mean: ______________ Largest: __________ Smallest: __________ Range: __________</p>
          </div>
        ) : null
      })}
      <p className="m-0">A void trial is not counted. Write units. Round no further than the tool could read.</p>
    </section>
  )
}
