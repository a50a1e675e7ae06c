import { type ReactNode, useLayoutEffect, useRef, useState } from 'react'
import type { Report } from '../../data/api'
import type { SeenTrial } from '../../machines/turns'
import { Drawn } from './drawn'
import { Fitted } from './Fitted'
import { PAPERS, type Paper } from './Opened'
import { Podium } from './Podium'
import { FURTHER_TITLES, furtherOf, Lines } from './Further'
import type { Own } from './useOwn'
import { Written } from './Written'
import { glued } from '../../parts/glue'

const PX_PER_MM = 96 / 25.4
/** What a school printer leaves white at the edge, in mm. */
const EDGE_MM = 8
/** Letters of a poster shrink so far until everything is on its page; smaller could not be read on a wall. */
const LARGEST = 1.25
const SMALLEST = 0.55

/** One page: question, prediction, podium, tape, verdict, how sure, what was kept the same, what would make it fairer, what comes next. */
/** Whether nothing is cut: neither by the page's edges nor by a podium too low for its steps, which stand on its foot. */
function holdsAll(body: HTMLElement): boolean {
  if (body.scrollHeight > body.clientHeight + 1 || body.scrollWidth > body.clientWidth + 1) return false
  return [...body.querySelectorAll('[data-podium] > ol')].every((steps) => {
    const top = steps.getBoundingClientRect().top
    return [...steps.querySelectorAll('[data-step]')].every((s) => s.getBoundingClientRect().top >= top - 1 && s.scrollHeight <= s.clientHeight + 1)
  })
}

export function Poster({
  report,
  seen,
  own,
  write,
  paper,
}: {
  report: Report
  seen: readonly SeenTrial[]
  own: Own
  write: ((part: string, text: string) => void) | undefined
  paper: Paper
}) {
  const [, , wide, high] = PAPERS.find(([id]) => id === paper) ?? PAPERS[0]
  const [w, h] = [wide * PX_PER_MM, high * PX_PER_MM]
  const upright = high > wide
  const page = useRef<HTMLDivElement>(null)
  const body = useRef<HTMLDivElement>(null)
  const [scale, setScale] = useState(LARGEST)
  const [fits, setFits] = useState(true)
  const [shown, setShown] = useState(1)
  const base = Math.sqrt(w * h) / 58
  const room = useRef<HTMLDivElement>(null)

  // on the screen the page is as wide as there is room; on paper it is itself
  useLayoutEffect(() => {
    const el = room.current
    if (!el) return
    const look = () => setShown(Math.min(1, el.clientWidth / w))
    const see = new ResizeObserver(look)
    see.observe(el)
    look()
    return () => see.disconnect()
  }, [w])

  // the largest letters with which nothing is cut: tried from above, once for every change of what stands there
  const content = JSON.stringify([own, paper, Boolean(write), report.id])
  // biome-ignore lint/correctness/useExhaustiveDependencies: laid out anew when what stands on it changes
  useLayoutEffect(() => {
    const [p, b] = [page.current, body.current]
    if (!p || !b) return
    let found = SMALLEST
    for (let s = LARGEST; s >= SMALLEST; s -= 0.05) {
      p.style.fontSize = `${base * s}px`
      if (holdsAll(b)) {
        found = s
        break
      }
    }
    p.style.fontSize = `${base * found}px`
    setFits(holdsAll(b))
    setScale(found)
  }, [content, base])

  const { study, sections, analysis, places } = report
  const out = (part: string) => own.without.includes(part)
  const part = (id: string, label: string, known: string, className = '') => (
    <Written part={id} label={label} known={known} texts={own.texts} write={write} className={className} />
  )
  const foot: [string, string, ReactNode][] = [
    ['kept_same', 'Kept the same', part('kept_same', 'Kept the same', sections.kept_same.join('; '))],
    ['how_sure', 'How sure', part('how_sure', 'How sure', sections.how_sure)],
    ['fairer', 'Fairer next time', part('fairer', 'Fairer next time', sections.fairer)],
    ['next', 'Next', part('next', 'Next', sections.next)],
    ...(sections.besides.length || own.texts.besides
      ? ([['besides', 'Besides', part('besides', 'Besides', sections.besides.join(' '))]] as [string, string, ReactNode][])
      : []),
    ...own.also.flatMap((id): [string, string, ReactNode][] => {
      const lines = furtherOf(report, id)
      return lines.length ? [[id, FURTHER_TITLES[id], <Lines key={id} lines={lines} />]] : []
    }),
  ]
  const one = out('podium') || out('tape')
  const empty: Record<string, boolean> = { kept_same: !write && !sections.kept_same.length && !own.texts.kept_same }
  const below = foot.filter(([id]) => !out(id) && !empty[id])
  return (
    <div ref={room} className="overflow-hidden print:overflow-visible">
      {fits ? null : (
        <p className="no-print m-0 mb-2 font-semibold text-doubt" role="status">
          More is written than one page holds. Shorten a part, leave one out, or take a larger paper.
        </p>
      )}
      <div className="print:!h-auto" style={{ height: h * shown }}>
        <div
          ref={page}
          data-poster={paper}
          data-letters={scale.toFixed(2)}
          className="origin-top-left bg-floor text-ink shadow-[0_0_0_2px_var(--hair)] print:!transform-none print:bg-white print:shadow-none"
          style={{ width: w, height: h, transform: `scale(${shown})`, padding: EDGE_MM * PX_PER_MM, boxSizing: 'border-box', lineHeight: 1.28, fontSize: base }}
        >
          <div ref={body} className="flex h-full flex-col overflow-hidden" data-page-body>
            {part('who', 'Who', sections.who, 'text-[0.85em] font-semibold text-quiet')}
            <h1 className="big m-0 mt-[0.1em] leading-[1.02] print:!text-[2.9em]" style={{ fontSize: '2.9em' }}>
              {study.draft.question || study.title}
            </h1>
            {out('predicted') || !(sections.predicted || own.texts.predicted) ? null : (
              <div className="mt-[0.5em]">
                <strong>We predicted: </strong>
                {part('predicted', 'Prediction and reason', sections.predicted, 'inline')}{' '}
                {sections.found || own.texts.found ? part('found', 'How it turned out', sections.found, 'inline font-semibold') : null}
              </div>
            )}
            <p className="big m-0 mt-[0.45em] text-[1.55em] leading-tight">
              {analysis.verdict.spans.map((s, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a piece of a sentence is its place
                <span key={i} className={s.holds === 'size' && analysis.verdict.size ? 'mark-line' : undefined}>
                  {glued(s.text)}
                </span>
              ))}
            </p>
            {report.conclusion?.more && study.draft.study_kind !== 'contest' ? <p className="m-0 mt-[0.2em]">{glued(report.conclusion.more)}</p> : null}
            <div
              className={`mt-[0.6em] grid shrink-0 grow basis-0 gap-[1.2em] ${upright && !one ? 'grid-rows-[minmax(0,1.35fr)_minmax(0,1fr)]' : one ? 'grid-rows-[minmax(0,1fr)]' : 'grid-cols-[minmax(0,1.7fr)_minmax(0,1fr)] grid-rows-[minmax(0,1fr)]'}`}
              style={{ minHeight: h * (upright ? 0.4 : 0.36) }}
            >
              {out('tape') ? null : (
                <div className="min-h-0 min-w-0" data-drawn>
                  {report.trials.length ? (
                    <Fitted again={content}>
                      <Drawn report={report} seen={seen} paper />
                    </Fitted>
                  ) : (
                    <p className="m-0">{`${analysis.levels.reduce((n, l) => n + l.n_kept, 0)} trials: too many to draw each.`}</p>
                  )}
                </div>
              )}
              {out('podium') ? null : (
                <div className="min-h-0 min-w-0" data-steps>
                  <Podium places={places} looks={report.looks} said={report.places_said} />
                </div>
              )}
            </div>
            {below.length ? (
              <div
                className="mt-[0.8em] grid gap-x-[1.6em] gap-y-[0.5em] border-t-[0.12em] border-ink pt-[0.5em]"
                style={{ gridTemplateColumns: `repeat(${upright ? Math.min(2, below.length) : below.length}, minmax(0, 1fr))` }}
              >
                {below.map(([id, title, text]) => (
                  <section key={id} aria-label={title} className="min-w-0">
                    <h2 className="big m-0 text-[1.15em]">{title}</h2>
                    <div className="text-[0.86em]">{text}</div>
                  </section>
                ))}
              </div>
            ) : null}
          </div>
        </div>
      </div>
    </div>
  )
}
