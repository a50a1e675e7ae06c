import { useState } from 'react'
import type { Analysis, Beside, Study, Version } from '../../data/api'
import { labelOf, levelIndex } from '../../data/trials'
import { everyRung } from '../../machines/drops'
import type { SeenTrial } from '../../machines/turns'
import { Shape } from '../../parts/parts'
import type { HowAsked } from './How'

/** What the drops of a specimen tell, as it is said. */
function known(l: Beside['ladders'][number], unit: string, every: boolean): string {
  if (every) return `${l.survived} of ${l.of} rungs${l.over ? '' : `, next ${l.next} ${unit}`}`
  const more = l.over ? '' : `, next ${l.next} ${unit}`
  if (l.known === 'between') return `between ${l.passed} and ${l.failed} ${unit}`
  if (l.known === 'below') return `below ${l.failed} ${unit}`
  if (l.known === 'mixed') return `failed ${l.failed} ${unit}, yet passed ${l.passed} ${unit}`
  return `at least ${l.passed} ${unit}${more}`
}

const share = (v: number) => `${Math.round(100 * v)} %`

/** Survived of how many at each level, with the interval that so few allow. */
export function Survived({ a, study }: { a: Analysis; study: Study }) {
  if (a.effect.kind !== 'survival') return null
  const s = a.effect.survival
  return (
    <div className="relative overflow-x-auto" tabIndex={0} role="region" aria-label={`How many ${a.effect.passed} at each level`} data-survival>
      <table className="num w-full min-w-[28rem] border-collapse text-right">
        <thead>
          <tr className="text-[0.92rem] text-quiet">
            <th scope="col" className="py-1 text-left font-normal">
              {a.factor.name}
            </th>
            <th scope="col" className="py-1 pl-4 font-normal">
              {a.effect.passed}
            </th>
            <th scope="col" className="py-1 pl-4 font-normal">
              of
            </th>
            <th scope="col" className="py-1 pl-4 font-normal">
              95 % interval (Wilson)
            </th>
          </tr>
        </thead>
        <tbody>
          {s.levels.map((l) => {
            const i = levelIndex(study, l.level)
            return (
              <tr key={String(l.level)} className="border-t border-hair">
                <th scope="row" className="py-2 text-left">
                  <Shape n={Math.max(0, i)} size={14} /> {study.levels[i]?.label ?? l.level}
                </th>
                <td className="py-2 pl-4">{l.survived}</td>
                <td className="py-2 pl-4">{l.n}</td>
                <td className="py-2 pl-4">
                  {share(l.wilson95[0])} to {share(l.wilson95[1])}
                </td>
              </tr>
            )
          })}
        </tbody>
      </table>
      {study.line_said && a.response.name === study.draft.measures[0]?.name ? <p className="m-0 mt-2">{study.line_said}</p> : null}
    </div>
  )
}

/** Hits of the shots at each level, or the drops survived from each rung, with the interval that so few allow. */
export function Shared({ beside, study, response }: { beside: Beside; study: Study; response: string }) {
  const rows = beside.shares.filter((s) => s.measure === response)
  if (!rows.length) return null
  const unit = study.draft.drop?.unit ?? ''
  const rungs = rows.some((s) => s.rung !== null)
  const payloads = rows.some((s) => s.payload)
  const passed = study.responses.find((r) => r.id === response)?.passed || 'survived'
  return (
    <div
      className="relative mt-3 overflow-x-auto"
      tabIndex={0}
      role="region"
      aria-label={rungs ? 'Survival at each rung' : payloads ? 'Each payload' : 'Hits of the shots'}
      data-shared
    >
      <table className="num w-full min-w-[28rem] border-collapse text-right">
        <thead>
          <tr className="text-[0.92rem] text-quiet">
            <th scope="col" className="py-1 text-left font-normal">
              {study.draft.variable.name}
            </th>
            {rungs || payloads ? (
              <th scope="col" className="py-1 pl-4 font-normal">
                {rungs ? `rung / ${unit}` : 'payload'}
              </th>
            ) : null}
            <th scope="col" className="py-1 pl-4 font-normal">
              {rungs || payloads ? passed : 'hits of shots'}
            </th>
            <th scope="col" className="py-1 pl-4 font-normal">
              95 % interval (Wilson)
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((s) => (
            <tr key={`${s.level} ${s.rung} ${s.payload}`} className="border-t border-hair">
              <th scope="row" className="py-2 text-left">
                <Shape n={Math.max(0, levelIndex(study, s.level))} size={14} /> {labelOf(study, s.level)}
              </th>
              {rungs || payloads ? <td className="py-2 pl-4">{s.rung ?? s.payload}</td> : null}
              <td className="py-2 pl-4">
                {s.well} of {s.of}
              </td>
              <td className="py-2 pl-4">
                {share(s.interval[0])} to {share(s.interval[1])}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

/** In how many trials something cannot be worked out, and what is missing there. */
export function Lacking({ seen, response }: { seen: readonly SeenTrial[]; response: string }) {
  const rows = seen.filter((t) => t.state === 'kept' && t.derived.some((d) => d.id === response))
  const lacks = rows.flatMap((t) => t.derived.filter((d) => d.id === response && d.says))
  return lacks.length ? (
    <p className="m-0 mb-2" data-lacking>
      {lacks.length === 1 ? 'One trial' : `${lacks.length} trials`} of {rows.length} cannot be worked out: {[...new Set(lacks.map((d) => d.says))].join('; ')}.
    </p>
  ) : null
}

/** Each trial with what was worked out from it, and how. */
export function WorkedTrials({
  study,
  seen,
  response,
  name,
  onHow,
}: {
  study: Study
  seen: readonly SeenTrial[]
  response: string
  name: string
  onHow: (h: HowAsked) => void
}) {
  const [open, setOpen] = useState(false)
  const rows = seen.filter((t) => t.state === 'kept' && t.derived.some((d) => d.id === response))
  return (
    <section aria-label={`${name}, trial by trial`} className="mt-4" data-worked>
      <button type="button" className="btn btn-plain px-0" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? 'Fold the trials' : `${name}, trial by trial`}
      </button>
      {open ? (
        <ol className="m-0 grid list-none gap-x-8 p-0 md:grid-cols-2">
          {rows.map((t) => {
            const d = t.derived.find((x) => x.id === response)
            return (
              <li key={t.id} className="hair flex items-center gap-3 py-1">
                <span className="num w-10 text-quiet">{t.number}</span>
                <span className="grow">{labelOf(study, t.level)}</span>
                <span className="big num">{d?.text || '–'}</span>
                <button
                  type="button"
                  className="btn btn-plain min-h-[44px]"
                  aria-label={`How was ${name} of trial ${t.number} worked out?`}
                  onClick={() => onHow({ about: 'trial', first: String(t.number), response })}
                >
                  How?
                </button>
              </li>
            )
          })}
        </ol>
      ) : null}
    </section>
  )
}

/** Behaviours counted by level, and the decision with two measures. */
export function BesidePart({ study, beside, a }: { study: Study; beside: Beside | undefined; a: Analysis }) {
  if (!beside) return null
  const contest = study.draft.study_kind === 'contest' && a.ranking.length > 0
  const words = [...new Set(beside.behaviours.flatMap((b) => b.words.map((w) => w.word)))]
  return (
    <>
      {contest ? (
        <section aria-label="Places" className="mt-6 print:break-inside-avoid" data-places>
          <h2 className="mb-2 text-[1.5rem]">Places by the rule agreed</h2>
          <ol className="m-0 list-none p-0">
            {a.ranking.map((p) => (
              <li key={String(p.level)} className={`hair flex items-baseline gap-4 py-1 ${p.place === null ? 'text-quiet' : ''}`}>
                <span className="big w-10 text-[1.35rem] leading-none">{p.place === null ? '–' : `${p.place}${p.shared ? '=' : ''}`}</span>
                <strong className="grow">{study.levels[levelIndex(study, p.level)]?.label ?? String(p.level)}</strong>
                <span className="num text-quiet">{p.outside ? `below the line: ${p.outside}` : p.why || p.result}</span>
                {p.apart_from_next === false ? <span className="text-quiet">not told from the next</span> : null}
              </li>
            ))}
          </ol>
        </section>
      ) : null}
      {beside.ladders.length ? (
        <section aria-label="Specimens" className="mt-8 print:break-inside-avoid" data-specimens>
          <h2 className="mb-2 text-[1.5rem]">Each specimen</h2>
          <ul className="m-0 grid list-none gap-x-10 p-0 md:grid-cols-2">
            {beside.ladders.map((l) => (
              <li key={`${l.level}:${l.block}`} className="hair flex gap-3 py-1.5">
                <Shape n={Math.max(0, levelIndex(study, l.level))} size={14} />
                <span className="grow">
                  {labelOf(study, l.level)}, number {l.block}
                </span>
                <span className="num">{known(l, study.draft.drop?.unit ?? 'm', everyRung(study))}</span>
              </li>
            ))}
          </ul>
        </section>
      ) : null}
      {a.two ? (
        <section aria-label="Two variables" className="mt-8" data-two>
          <h2 className="mb-2 text-[1.5rem]">Each of the two, at like values of the other</h2>
          <ul className="m-0 list-none p-0">
            {[a.two.first, a.two.second].map((m) => (
              <li key={m.name} className="hair py-2">
                <strong>{m.name}: </strong>
                {m.levels.map((l, i) => `${l}${m.unit ? `${m.unit === '°' ? '' : ' '}${m.unit}` : ''} ${m.means[i]}`).join('; ')}
                {m.size ? `; best and worst differ by about ${m.size}${m.interval ? ` (95 % interval ${m.interval})` : ''}` : ''}
              </li>
            ))}
          </ul>
          <p className="m-0 mt-2" data-depends>
            {a.two.says}
          </p>
        </section>
      ) : null}
      {beside.straighter.length ? (
        <section aria-label="Straighter without losing distance" className="mt-8 print:break-inside-avoid" data-straighter>
          <h2 className="mb-2 text-[1.5rem]">Straighter without losing distance</h2>
          <p className="m-0 text-[1.1rem]" data-decided>
            {beside.decided}
          </p>
          <p className="m-0 text-quiet">Margin agreed in the plan: {study.draft.margin}.</p>
          <ul className="m-0 list-none p-0">
            {beside.straighter.map((d) => (
              <li key={`${d.first}${d.second}`} className="hair py-2">
                <strong>
                  {labelOf(study, d.second)} against {labelOf(study, d.first)}, which goes furthest:
                </strong>{' '}
                {d.says}
              </li>
            ))}
          </ul>
        </section>
      ) : null}
      {words.length ? (
        <section aria-label="Behaviours" className="mt-8 print:break-inside-avoid" data-behaviour-counts>
          <h2 className="mb-2 text-[1.5rem]">How they behaved</h2>
          <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Behaviours for each level">
            <table className="num w-full border-collapse text-right">
              <thead>
                <tr className="text-[0.92rem] text-quiet">
                  <th scope="col" className="py-1 text-left font-normal">
                    {study.draft.variable.name}
                  </th>
                  {words.map((w) => (
                    <th key={w} scope="col" className="py-1 pl-4 font-normal">
                      {w}
                    </th>
                  ))}
                  <th scope="col" className="py-1 pl-4 font-normal">
                    noted in
                  </th>
                </tr>
              </thead>
              <tbody>
                {beside.behaviours.map((b) => (
                  <tr key={b.level} className="border-t border-hair">
                    <th scope="row" className="py-1.5 text-left">
                      <Shape n={Math.max(0, levelIndex(study, b.level))} size={14} /> {labelOf(study, b.level)}
                    </th>
                    {words.map((w) => (
                      <td key={w} className="py-1.5 pl-4">
                        {b.words.find((x) => x.word === w)?.count ?? 0}
                      </td>
                    ))}
                    <td className="py-1.5 pl-4">{b.trials}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </section>
      ) : null}
    </>
  )
}

/** What the newest version of each device weighs and costs, beside its result where the level is called by the device. */
export function Costs({ a, study, versions }: { a: Analysis; study: Study; versions: readonly Version[] }) {
  const made = versions.filter((v) => !v.withdrawn)
  // in design rounds every version with what came of it; else the newest of each device
  const rounds = study.draft.study_kind === 'design_rounds'
  const newest = rounds
    ? [...made].sort((x, y) => x.device.localeCompare(y.device) || x.number - y.number)
    : [...new Set(made.map((v) => v.device))].flatMap((d) => made.filter((v) => v.device === d).sort((x, y) => y.number - x.number)[0] ?? [])
  if (!newest.some((v) => v.cost > 0)) return null
  const money = study.draft.materials?.money ?? ''
  return (
    <section aria-label="What each costs" className="mt-8 print:break-inside-avoid" data-costs>
      <h2 className="mb-2 text-[1.5rem]">What each costs</h2>
      <table className="num w-full max-w-[40rem] border-collapse text-right">
        <thead>
          <tr className="text-[0.92rem] text-quiet">
            <th scope="col" className="py-1 text-left font-normal">
              device
            </th>
            <th scope="col" className="py-1 pl-4 font-normal">
              version
            </th>
            <th scope="col" className="py-1 pl-4 font-normal">
              mass
            </th>
            <th scope="col" className="py-1 pl-4 font-normal">
              cost / {money}
            </th>
            <th scope="col" className="py-1 pl-4 font-normal">
              result
            </th>
          </tr>
        </thead>
        <tbody>
          {newest.map((v) => {
            const level = a.levels.find((l) => String(l.level).toLowerCase() === (rounds ? String(v.number) : v.device.toLowerCase()))
            return (
              <tr key={v.id} className="border-t border-hair">
                <th scope="row" className="py-1.5 text-left">
                  {v.device}
                </th>
                <td className="py-1.5 pl-4">{v.number}</td>
                <td className="py-1.5 pl-4">{v.draft.mass || '–'}</td>
                <td className="py-1.5 pl-4">{v.cost.toFixed(2)}</td>
                <td className="py-1.5 pl-4">{level?.result_quoted ?? '–'}</td>
              </tr>
            )
          })}
        </tbody>
      </table>
    </section>
  )
}
