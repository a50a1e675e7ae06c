import type { Report } from '../../data/api'
import { firstWritten } from '../../data/measures'
import { labelOf, levelIndex } from '../../data/trials'
import type { SeenTrial } from '../../machines/turns'
import { PaperHead } from '../../parts/PaperHead'
import { Line, Part } from '../../parts/parts'
import { Drawn } from './drawn'
import { Fitted } from './Fitted'
import { FURTHER_TITLES, furtherOf, Lines } from './Further'
import type { Own } from './useOwn'
import { Written } from './Written'
import { glued } from '../../parts/glue'

/** Trials that a report of two pages lists one by one. */
const MOST_ROWS = 60

/** One to two pages for a folder: how it was run, all trials, the picture, the sums, and a conclusion that is begun. */
export function Folder({
  report,
  seen,
  own,
  write,
  onComment,
}: {
  report: Report
  seen: readonly SeenTrial[]
  own: Own
  write: ((part: string, text: string) => void) | undefined
  onComment: (text: string) => void
}) {
  const { study, sections, analysis } = report
  const counted = seen.filter((t) => t.place !== 'outside' && !t.practice)
  return (
    <article className="max-w-[60rem] text-[1.02rem] print:max-w-none print:text-[9.5pt] print:leading-snug" data-folder>
      <PaperHead study={study} />
      <h1 className="no-print m-0 text-[2.2rem]">{study.draft.question || study.title}</h1>
      <Part title="How it was run">
        <Written part="method" label="How it was run" known={sections.method.join('\n')} texts={own.texts} write={write} />
      </Part>
      <Part title="The trials">
        {seen.length ? (
          <ol className="m-0 grid list-none grid-cols-2 gap-x-8 p-0 md:grid-cols-3 print:grid-cols-4" data-all-trials>
            {counted.slice(0, MOST_ROWS).map((t) => (
              <li key={t.id} className={`flex justify-between border-b border-hair ${t.state === 'void' ? 'text-quiet line-through' : ''}`}>
                <span>
                  {t.number}. {labelOf(study, t.level)}
                </span>
                <span className="num">{t.state === 'void' ? `void: ${t.fault}` : firstWritten(study, t)}</span>
              </li>
            ))}
          </ol>
        ) : null}
        {counted.length > MOST_ROWS || !seen.length ? (
          <p className="m-0">All of the {analysis.levels.reduce((n, l) => n + l.n_kept + l.n_void, 0)} trials stand in the results table.</p>
        ) : null}
        <table className="mt-3 w-full border-collapse">
          <thead>
            <tr className="border-b-2 border-ink text-left">
              <th scope="col">{study.draft.variable.name}</th>
              <th scope="col">kept</th>
              <th scope="col">void</th>
              <th scope="col">result</th>
              <th scope="col">doubt</th>
            </tr>
          </thead>
          <tbody>
            {(report.conclusion?.numbers ?? []).map((n) => (
              <tr key={n.label} className="border-b border-hair">
                <td>{n.label}</td>
                <td className="num">{n.kept}</td>
                <td className="num">{n.void}</td>
                <td>{n.result || '–'}</td>
                <td>{n.spread || n.interval}</td>
              </tr>
            ))}
            {report.conclusion
              ? null
              : analysis.levels.map((l) => (
                  <tr key={String(l.level)} className="border-b border-hair">
                    <td>{study.levels[levelIndex(study, l.level)]?.label ?? String(l.level)}</td>
                    <td className="num">{l.n_kept}</td>
                    <td className="num">{l.n_void}</td>
                    <td>{l.result_quoted ?? l.quoted ?? '–'}</td>
                    <td />
                  </tr>
                ))}
          </tbody>
        </table>
      </Part>
      <Part title="The picture">
        {seen.length ? (
          <div className="h-[62mm] w-[180mm] max-w-full print:break-inside-avoid">
            <Fitted again={report.id}>
              <Drawn report={report} seen={seen} paper />
            </Fitted>
          </div>
        ) : null}
      </Part>
      <Sums report={report} />
      <Part title="What we found">
        <p className="m-0 font-semibold">{glued(analysis.verdict.says)}</p>
        {sections.found ? <p className="m-0">{sections.found}</p> : null}
        {sections.besides.map((b) => (
          <p key={b} className="m-0">
            {glued(b)}
          </p>
        ))}
        <Written part="conclusion" label="Conclusion" known={sections.stems.map((s) => `${s} …`).join('\n')} texts={own.texts} write={write} className="mt-2" />
      </Part>
      {(['versions', 'behaviours', 'faults'] as const).map((part) => {
        const lines = furtherOf(report, part)
        return lines.length ? (
          <Part key={part} title={FURTHER_TITLES[part]}>
            <Lines lines={lines} />
          </Part>
        ) : null
      })}
      <Part title="What limits it">
        <ul className="m-0 pl-5">
          {analysis.audit.length ? analysis.audit.map((f) => <li key={f.code}>{glued(f.says)}</li>) : <li>The checks that could be made found no doubt.</li>}
        </ul>
      </Part>
      <Part title="What a marker looks for">
        <ul className="m-0 list-none p-0">
          {sections.marker.map((m) => (
            <li key={m}>☐ {m}</li>
          ))}
        </ul>
        <div className="no-print mt-3">
          <Line label="For the group, from the teacher" rows={2} value={own.comment} onChange={(v) => onComment(v.slice(0, 2000))} />
        </div>
        {own.comment ? <p className="mb-0 mt-2 hidden print:block">{own.comment}</p> : null}
      </Part>
    </article>
  )
}

/** The working of one mean and of the difference, as it was when the report was made. */
function Sums({ report }: { report: Report }) {
  if (!report.workings.length) return null
  return (
    <Part title="The sums, worked">
      {report.workings.map((w) => (
        <div key={w.title} className="print:break-inside-avoid">
          <p className="m-0 font-semibold">{w.title}</p>
          {w.lines.map((l) => (
            <p key={l} className="num m-0">
              {l}
            </p>
          ))}
        </div>
      ))}
    </Part>
  )
}
