import { NotOpened } from '../../parts/NotOpened'
import { counted } from '../../parts/counted'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import type { SameTest, Together as Judged } from '../../data/api'
import { useTests, useTogether } from '../../data/queries'
import { Frame } from '../../parts/Frame'
import { Pick, Shape, Skeleton, Tick, Trouble } from '../../parts/parts'
import { minus } from '../../tape/Plot'
import { Tape } from '../../tape/Tape'
import { ANSWER } from '../../parts/answer'
import { Headline } from './Headline'
import { glued } from '../../parts/glue'

/** Every group's study of the same test on one page: who has how many trials, whose readings scatter, and one verdict over all of them. */
export function Together() {
  const tests = useTests()
  const [search, setSearch] = useSearchParams()
  if (tests.isLoadingError) return <NotOpened error={tests.error} again={() => void tests.refetch()} />
  if (!tests.data) return <Skeleton lines={5} />
  const from = search.get('study') ?? ''
  const chosen = search.get('test')
  const at = Math.max(
    0,
    tests.data.findIndex((t) => (chosen ? keyOf(t) === chosen : t.studies.some((s) => s.id === from))),
  )
  const test = tests.data[at]
  return (
    <Frame title="The class together">
      <div className="w-full px-4 py-6 md:px-8">
        {test ? (
          <>
            <div className="no-print flex flex-wrap items-end gap-x-8 gap-y-2">
              <div className="w-full max-w-[28rem]">
                <Pick
                  label="The same test"
                  value={keyOf(test)}
                  options={tests.data.map((t) => [keyOf(t), `${t.name} (${t.studies.length === 1 ? 'one study' : `${t.studies.length} studies`})`] as const)}
                  onChange={(key) => setSearch({ test: key }, { replace: true })}
                />
              </div>
            </div>
            <OfTest key={keyOf(test)} test={test} from={chosen ? '' : from} />
          </>
        ) : (
          <>
            <h1 className="m-0 text-[2.4rem]">The class together</h1>
            <p>No trial is kept yet. Once groups have run theirs, the same test of all of them stands here on one page.</p>
          </>
        )}
      </div>
    </Frame>
  )
}

const keyOf = (t: SameTest) => `${t.family} ${t.name}`
const classOf = (s: SameTest['studies'][number]) => [s.class_label, s.year].filter(Boolean).join(', ') || 'no class'

function OfTest({ test, from }: { test: SameTest; from: string }) {
  const [search, setSearch] = useSearchParams()
  const classes = [...new Set(test.studies.map(classOf))]
  const home = test.studies.find((s) => s.id === from)
  const of = search.get('class') ?? (home ? classOf(home) : classes.length > 1 ? (classes[0] ?? '') : 'all')
  const shown = of === 'all' ? test.studies : test.studies.filter((s) => classOf(s) === of)
  // The address follows a moment later (the router renders it in a transition): the tick itself must answer at once.
  const [without, setWithout] = useState(() => new Set((search.get('without') ?? '').split(',').filter(Boolean)))
  const ids = shown.filter((s) => !without.has(s.id)).map((s) => s.id)
  const judged = useTogether(ids)
  const show = (klass: string, left: Set<string>) => {
    setWithout(left)
    setSearch(Object.fromEntries(Object.entries({ test: keyOf(test), class: klass, without: [...left].join(',') }).filter(([, v]) => v)), { replace: true })
  }
  return (
    <div className="mt-4 grid grid-cols-[minmax(0,1fr)] gap-x-10 gap-y-6 md:grid-cols-[minmax(0,1fr)_24rem]">
      <div className="min-w-0">
        {judged.isError ? <Trouble error={judged.error} again={() => void judged.refetch()} /> : judged.data && ids.length ? <Verdict t={judged.data} /> : null}
        {ids.length ? null : <p>Tick at least one study.</p>}
      </div>
      <aside className="self-start border-l-[8px] border-tape pl-6" aria-label="Who ran them">
        {classes.length > 1 ? (
          <Pick
            label="Class and year"
            value={of}
            options={[['all', 'All classes and years'] as const, ...classes.map((c) => [c, c] as const)]}
            onChange={(c) => show(c, new Set())}
          />
        ) : null}
        <h2 className="mb-0 mt-4 text-[1.4rem]">Studies</h2>
        <ul className="m-0 list-none p-0" data-studies>
          {shown.map((s) => (
            <li key={s.id} className="hair py-1">
              <Tick
                checked={!without.has(s.id)}
                onChange={(on) => {
                  const now = new Set(without)
                  if (on) now.delete(s.id)
                  else now.add(s.id)
                  show(of, now)
                }}
              >
                <span>
                  {s.title}{' '}
                  <span className="text-quiet">{[of === 'all' ? classOf(s) : '', `${s.kept} of ${s.planned} trials`].filter(Boolean).join(' · ')}</span>
                </span>
              </Tick>
              <span className="flex gap-5 pl-11">
                <Link to={`/study/${s.id}/work-out`} aria-label={`Verdict of ${s.title}`} className="inline-flex min-h-[44px] items-center">
                  Verdict
                </Link>
                {s.sums_of ? (
                  <span className={s.sums_right === s.sums_of ? 'text-quiet' : 'font-semibold'} data-sums-right>
                    {s.sums_right} of {s.sums_of} sums right{s.sums_wrong.length ? `; not all of ${s.sums_wrong.join(', ')}` : ''}
                  </span>
                ) : null}
                <Link to={`/study/${s.id}/sums`} aria-label={`Check sums of ${s.title}`} className="inline-flex min-h-[44px] items-center">
                  Check sums
                </Link>
                <Link to={`/study/${s.id}/show`} aria-label={`Reports of ${s.title}`} className="inline-flex min-h-[44px] items-center">
                  Reports
                </Link>
              </span>
            </li>
          ))}
        </ul>
      </aside>
    </div>
  )
}

function Verdict({ t }: { t: Judged }) {
  const a = t.analysis
  const unit = a.response.unit ?? ''
  const levels = a.levels.map((l, i) => ({
    label: t.labels[i] ?? String(l.level),
    shape: i,
    marks: t.marks.filter((m) => m.level === l.level).map((m) => ({ id: m.id, value: m.value, kind: m.void ? ('void' as const) : m.kind })),
    mean: l.mean,
    meanText: l.shown?.mean ?? '',
    low: l.min,
    high: l.max,
  }))
  return (
    <>
      <p className="m-0 flex flex-wrap items-center gap-3 font-semibold">
        <span
          className={`inline-block border-2 border-ink px-3 py-0.5 ${a.verdict.answer === 'clear' ? 'bg-ink text-floor' : a.verdict.answer === 'leaning' ? 'border-dashed' : ''}`}
          data-answer
        >
          {ANSWER[a.verdict.answer]}
        </span>
        <span className="text-quiet">
          {t.blocks < 2
            ? 'one group'
            : t.within
              ? `${counted(t.blocks, 'group')}, each compared with itself`
              : `${counted(t.blocks, 'group')}, all trials together: too few groups tried two levels`}
        </span>
      </p>
      <h1 className="m-0 mt-2 max-w-[60rem] text-[2rem]">
        <Headline a={a} />
      </h1>
      {a.verdict.more.length ? (
        <p className="m-0 mt-1 max-w-[60rem] text-[1.15rem] leading-snug" data-more>
          {glued(a.verdict.more.map((s) => s.text).join(''))}
        </p>
      ) : null}
      <p className="m-0 mt-2 max-w-[60rem] text-quiet">
        {glued(a.verdict.detail)} {t.alike ? <span data-alike>{t.alike}</span> : null}
      </p>
      {a.effect.kind === 'survival' ? null : (
        <Tape
          roomy
          fit={340}
          levels={levels}
          unit={unit}
          caption={`The trials of all groups at each level. ${a.levels.map((l) => `${l.level}: mean ${l.quoted ?? 'none'}`).join('; ')}.`}
        />
      )}
      {t.record ? (
        <p className="m-0 mt-3" data-record>
          <strong>The record:</strong> {t.record.name}, {t.record.says}.
        </p>
      ) : null}
      <h2 className="mb-1 mt-6 text-[1.4rem]">Who ran how many</h2>
      <div className="relative overflow-x-auto" tabIndex={0} role="region" aria-label="Who ran how many">
        <table className="num w-full max-w-[48rem] border-collapse text-right" data-runners>
          <thead>
            <tr className="text-[0.92rem] text-quiet">
              <th scope="col" className="py-1 text-left font-normal">
                group
              </th>
              <th scope="col" className="py-1 pl-4 font-normal">
                kept
              </th>
              <th scope="col" className="py-1 pl-4 font-normal">
                void
              </th>
              <th scope="col" className="py-1 pl-4 font-normal">
                spread (SD){unit && unit !== 'count' ? ` / ${unit}` : ''}
              </th>
              <th scope="col" className="py-1 pl-4 text-left font-normal">
                beside the others
              </th>
            </tr>
          </thead>
          <tbody>
            {t.runners.map((r) => (
              <tr key={r.name} className="border-t border-hair">
                <th scope="row" className="py-1.5 text-left">
                  {r.name}
                </th>
                <td className="py-1.5 pl-4">{r.kept}</td>
                <td className="py-1.5 pl-4">{r.void}</td>
                <td className="py-1.5 pl-4">{r.spread === null ? '–' : minus(r.spread, 2)}</td>
                <td className="py-1.5 pl-4 text-left">
                  {r.wide ? (
                    <strong>
                      <Shape n={3} size={12} /> scatters widely
                    </strong>
                  ) : r.spread === null ? (
                    'too few to tell'
                  ) : (
                    ''
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <button type="button" className="btn no-print mt-4" onClick={() => window.print()}>
        Print
      </button>
    </>
  )
}
