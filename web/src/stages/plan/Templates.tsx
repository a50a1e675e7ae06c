import { useState } from 'react'
import { Link, useParams } from 'react-router'
import type { Draft, Study, Templates as Made } from '../../data/api'
import { useStudy, useTemplates } from '../../data/queries'
import { usePlan } from '../../data/usePlan'
import { Frame } from '../../parts/Frame'
import { NotOpened } from '../../parts/NotOpened'
import { counted } from '../../parts/counted'
import { Line, Part, Pick, Says, Skeleton } from '../../parts/parts'
import { PlanSaved } from '../../planning/PlanSaved'
import { Undo } from '../../planning/Undo'
import { BuildSheet, type Level } from './paper/BuildSheet'
import { BuildWall } from './paper/BuildWall'
import { OwnPictures, useOwnPictures } from './paper/OwnPictures'
import { PAPERS, setPrinter, usePrinter, type PaperName } from './paper/printer'
import { PrinterCheck } from './paper/PrinterCheck'
import { TemplateSheets } from './paper/TemplateSheets'
import { PlanTabs } from './PlanTabs'

export function Templates() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const printer = usePrinter()
  const made = useTemplates(id, printer)
  if (study.isPending || (made.isPending && !made.error)) return <Skeleton lines={6} />
  if (study.isLoadingError) return <NotOpened error={study.error} again={() => void study.refetch()} />
  if (made.isLoadingError || !made.data) return <NotOpened error={made.error} again={() => void made.refetch()} />
  return <Opened key={id} study={study.data} made={made.data} />
}

const LEVELS: readonly (readonly [Level, string])[] = [
  ['first', 'First'],
  ['middle', 'Middle'],
  ['senior', 'Senior'],
]

/** What is cut from paper, at true size, for each level and each group; and how the device is built. */
function Opened({ study, made }: { study: Study; made: Made }) {
  const plan = usePlan(study)
  const { draft, change } = plan
  const own = draft.templates ?? {}
  const set = (part: Partial<NonNullable<Draft['templates']>>) => change({ templates: { ...own, ...part } })
  const printer = usePrinter()
  const [group, setGroup] = useState('')
  const [level, setLevel] = useState<Level>(draft.reading_level ?? 'middle')
  const [wall, setWall] = useState(false)
  const pictures = useOwnPictures(study.id)
  const sheets = made.layout.sheets.length
  const all = made.shared ? [''] : made.groups.length ? made.groups : ['']
  const groups = group === LANE ? [] : group === SHARE ? [''] : group ? [group] : all
  if (wall && made.build) return <BuildWall build={made.build} draft={draft} level={level} onClose={() => setWall(false)} />
  const pages = group === LANE ? made.lane_layout.sheets.length : sheets * groups.length + (group && group !== SHARE ? 0 : made.lane_layout.sheets.length)
  return (
    <Frame study={study} title={`Templates: ${study.title}`}>
      <PlanTabs id={study.id} />
      <div className="mx-auto grid w-full max-w-[90rem] grid-cols-[minmax(0,1fr)] gap-x-12 gap-y-8 px-4 py-6 md:grid-cols-[22rem_minmax(0,1fr)] md:px-8 print:block print:p-0">
        <div className="no-print grid content-start gap-5">
          <h1 className="m-0 border-t-2 border-ink pt-3 text-[1.7rem]">Templates</h1>
          <p className="m-0">{counted(pages, 'page')}. Print at 100 %, not “fit to page”.</p>
          <div className="flex flex-wrap gap-3">
            <button type="button" className="btn btn-act" onClick={() => window.print()}>
              Print
            </button>
            <Link className="btn" to={`/study/${study.id}/plan/print`}>
              Everything for the lesson
            </Link>
          </div>
          {made.offered.length > 1 ? (
            <Pick
              label="Which device"
              value={own.device || made.device}
              options={made.offered.map((d) => [d.id, d.name] as const)}
              onChange={(device) => set({ device })}
            />
          ) : null}
          {made.problems.length ? (
            <ul className="m-0 grid list-none gap-2 p-0" data-problems>
              {made.problems.map((p) => (
                <li key={p.says}>
                  <Says>{p.says}</Says>
                </li>
              ))}
            </ul>
          ) : null}
          <Sizes made={made} own={own.sizes ?? []} problems={made.problems} onChange={(sizes) => set({ sizes })} />
          <div className="grid grid-cols-2 gap-x-6 gap-y-4">
            <Pick
              label="Paper"
              value={printer.paper}
              options={PAPERS.map(([id, name]) => [id, `${name}: ${counted(made.sheets[id] ?? 0, 'sheet')}`] as const)}
              onChange={(paper: PaperName) => setPrinter({ paper })}
            />
            <Pick
              label="The printer leaves free"
              value={String(printer.margin)}
              options={[5, 10, 15, 20].map((n) => [String(n), `${n} mm`] as const)}
              onChange={(margin) => setPrinter({ margin: Number(margin) })}
            />
            <Pick
              label="Whose"
              value={group}
              options={[
                ['', made.shared || !made.groups.length ? 'one to share, and the lane' : 'every group, and the lane'],
                ...(made.shared || !made.groups.length ? [] : ([[SHARE, 'one to share, and the lane']] as const)),
                ...made.groups.map((g) => [g, g] as const),
                [LANE, 'only the lane'],
              ]}
              onChange={setGroup}
            />
          </div>
          <PrinterCheck />
          <details>
            <summary className="min-h-[48px] cursor-pointer py-3 font-semibold">For a cutting machine</summary>
            <p className="m-0">SVG in millimetres; what is cut, folded, drawn and written lies on layers of its own.</p>
            <ul className="m-0 mt-2 grid list-none gap-1 p-0">
              <li>
                <a
                  className="btn btn-plain px-0"
                  href={`/api/studies/${study.id}/templates.svg${group && group !== LANE && group !== SHARE ? `?group=${encodeURIComponent(group)}` : ''}`}
                  download
                >
                  All pieces in one file
                </a>
              </li>
              {made.pieces.map((p, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a piece is known by its place
                <li key={i}>
                  <a
                    className="inline-flex min-h-[44px] items-center text-ink underline underline-offset-4"
                    href={`/api/studies/${study.id}/templates.svg?piece=${i}`}
                    download
                  >
                    {[p.kind, ...p.labels].join(', ')}
                    {p.number > 1 ? ` (${p.number} of it)` : ''}
                  </a>
                </li>
              ))}
            </ul>
          </details>
          <PlanSaved plan={plan} />
          <Undo study={study} />
        </div>
        <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-8 print:block">
          {made.notes.length ? (
            <ul className="no-print m-0 list-none border-t-2 border-ink p-0 pt-3" data-notes>
              {made.notes.map((n) => (
                <li key={n}>{n}</li>
              ))}
            </ul>
          ) : null}
          <TemplateSheets study={study} draft={draft} made={made} groups={groups} lane={group === '' || group === SHARE || group === LANE} />
          {made.build ? (
            <div className="no-print">
              <Part title="How it is built">
                <div className="flex flex-wrap items-end gap-4">
                  <Pick label="Reading level" value={level} options={LEVELS} onChange={setLevel} />
                  <button type="button" className="btn" onClick={() => setWall(true)}>
                    Show it on the wall
                  </button>
                </div>
                <BuildSheet build={made.build} draft={draft} level={level} pictures={pictures.sources} />
                <details>
                  <summary className="min-h-[48px] cursor-pointer py-3 font-semibold">Your school’s own sheet instead</summary>
                  <div className="grid gap-4">
                    <Line label="Its title" value={own.title ?? ''} onChange={(title) => set({ title })} />
                    <Line
                      label="Its steps, each on a line of its own"
                      rows={8}
                      hint="Empty for the steps that stand here."
                      value={own.steps ?? ''}
                      onChange={(steps) => set({ steps })}
                    />
                    <OwnPictures pictures={pictures} />
                  </div>
                </details>
              </Part>
            </div>
          ) : null}
        </div>
      </div>
    </Frame>
  )
}

/** Not a group's: what is laid and hung at the lane. */
const LANE = '\u0000lane'
/** One set for the whole class. */
const SHARE = '\u0000share'

const SOURCES: Record<Made['sizes'][number]['source'], string> = {
  level: 'the levels of the plan',
  plan: 'kept the same in the plan',
  typed: '',
  built: 'as all versions in Build have it',
  usual: 'usual; write yours',
  asked: '',
}

/** The sizes that the pieces are drawn from: what differs stands as the plan has it, the rest is written here once. */
function Sizes({
  made,
  own,
  problems,
  onChange,
}: {
  made: Made
  own: NonNullable<NonNullable<Draft['templates']>['sizes']>
  problems: Made['problems']
  onChange: (sizes: { name: string; value: string }[]) => void
}) {
  const typed = (name: string) => own.find((s) => s.name === name)?.value ?? ''
  const write = (name: string, value: string) =>
    onChange([...own.filter((s) => s.name !== name).map((s) => ({ name: s.name ?? '', value: s.value ?? '' })), ...(value ? [{ name, value }] : [])])
  return (
    <fieldset className="m-0 grid grid-cols-2 gap-x-6 gap-y-3 border-0 p-0">
      <legend className="sr-only">Sizes</legend>
      {made.sizes.map((s) => {
        const says = problems.find((p) => p.where === `templates.sizes.${s.name}`)?.says
        const hint = [s.hint, SOURCES[s.source]].filter(Boolean).join('; ')
        if (s.source === 'level' || s.source === 'plan')
          return (
            <div key={s.name} data-size={s.name}>
              <p className="m-0 text-[0.92rem] font-semibold text-quiet first-letter:uppercase">{s.name}</p>
              <p className="m-0 text-[1.1rem] font-bold">{s.value || '–'}</p>
              <p className="m-0 text-[0.92rem] text-quiet">{says ? <Says>{says}</Says> : hint}</p>
            </div>
          )
        const label = s.name.charAt(0).toUpperCase() + s.name.slice(1)
        return (
          <div key={s.name} data-size={s.name}>
            {s.choices.length ? (
              <Pick
                label={label}
                says={says}
                value={typed(s.name) || s.value}
                options={s.choices.map((c) => [c, c] as const)}
                onChange={(v) => write(s.name, v)}
              />
            ) : (
              <Line label={label} says={says} hint={hint} value={typed(s.name)} placeholder={s.value || s.unit} onChange={(v) => write(s.name, v)} />
            )}
          </div>
        )
      })}
    </fieldset>
  )
}
