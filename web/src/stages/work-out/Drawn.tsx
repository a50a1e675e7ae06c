import { type ReactNode, useRef, useState } from 'react'
import type { Analysis, Beside, Pictures, Study } from '../../data/api'
import { firstOf } from '../../data/measures'
import { useBeside, usePictures } from '../../data/queries'
import { handOver, pngOf, svgOf } from '../../machines/picture'
import type { SeenTrial } from '../../machines/turns'
import { ITEM, Item, Menu } from '../../parts/Menu'
import { Told } from '../../parts/parts'
import { unitOf } from '../../tape/marks'
import { Against } from './Against'
import { Behaved, behavedTable } from './pictures/behaviours'
import {
  Crossed,
  crossedTable,
  Heats,
  heatsTable,
  InOrder,
  Landed,
  landedTable,
  Misses,
  missesTable,
  type Numbers,
  orderTable,
  Straight,
} from './pictures/drawn'

/** A longer table on the page is no longer read. */
const ROWS_SHOWN = 500
type Picture = { id: string; label: string; says: string; draw: () => ReactNode; table?: Numbers }
const WIDTHS = [
  [1200, 'for a slide (1200 wide)'],
  [2400, 'for a page (2400 wide)'],
  [4800, 'for a wall (4800 wide)'],
] as const

/** The trials drawn: level by level first, then every picture that what is recorded allows. Each has its table beside it and is saved as it
 *  stands. */
export function Drawn({
  study,
  seen,
  a,
  response,
  factor,
  levels,
  legend,
}: {
  study: Study
  seen: SeenTrial[]
  a: Analysis
  response: string
  factor: string
  levels: ReactNode
  legend: ReactNode
}) {
  const found = usePictures(study.id, response, factor, `${study.version} ${study.kept} ${study.void}`).data
  // two variables are looked at crossed, until another picture is chosen
  const [view, setView] = useState(study.draft.second ? 'crossed' : 'levels')
  const [open, setOpen] = useState(false)
  const ref = useRef<HTMLDivElement>(null)
  const beside = useBeside(study.id).data
  const others = [...(found ? picturesOf(study, seen, a, response, found) : []), ...(beside ? behavedOf(study, beside) : [])]
  const shown = others.find((p) => p.id === view)
  return (
    <>
      <div id="drawn" ref={ref} className="mt-2" {...(others.length ? { role: 'tabpanel', 'aria-labelledby': `tab-${shown?.id ?? 'levels'}` } : {})}>
        {shown ? shown.draw() : levels}
      </div>
      <div className="no-print mt-1 flex flex-wrap items-center justify-between gap-x-4">
        {others.length ? (
          <div role="tablist" aria-label="How the trials are drawn" className="flex min-w-0 overflow-x-auto pb-1">
            {[{ id: 'levels', label: 'Levels' }, ...others].map((p) => {
              const on = p.id === (shown?.id ?? 'levels')
              return (
                <button
                  key={p.id}
                  id={`tab-${p.id}`}
                  type="button"
                  role="tab"
                  aria-selected={on}
                  aria-controls="drawn"
                  className={`btn shrink-0 px-1.5 text-[0.95rem] ${on ? '' : 'border-transparent text-quiet underline decoration-1 underline-offset-4'}`}
                  onClick={() => setView(p.id)}
                >
                  {p.label}
                </button>
              )
            })}
          </div>
        ) : null}
        <div className="flex flex-wrap gap-x-4">
          {shown?.table ? (
            <button type="button" className="btn btn-plain px-0" aria-expanded={open} onClick={() => setOpen(!open)}>
              {open ? 'Fold the table' : 'As a table'}
            </button>
          ) : null}
          {a.levels.some((l) => l.n_kept) ? <Save box={ref} name={`${study.title}, ${shown?.label ?? 'level by level'}`} /> : null}
        </div>
      </div>
      {shown ? <p className="m-0 mt-1 max-w-[56rem] text-quiet">{shown.says}</p> : legend}
      {open && shown?.table ? <AsTable of={shown.table} label={shown.label} /> : null}
    </>
  )
}

function AsTable({ of, label }: { of: Numbers; label: string }) {
  return (
    <div className="relative max-h-80 overflow-auto" tabIndex={0} role="region" aria-label={`${label}, as a table`} data-as-table>
      <table className="num w-full max-w-[44rem] border-collapse text-right">
        <thead>
          <tr className="text-[0.92rem] text-quiet">
            {of.head.map((h, i) => (
              <th key={h} scope="col" className={`py-1 pr-4 font-normal ${i ? '' : 'text-left'}`}>
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {of.rows.slice(0, ROWS_SHOWN).map((row) => (
            <tr key={row.join('|')} className="border-t border-hair">
              {row.map((cell, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a cell is its column
                <td key={i} className={`py-1 pr-4 ${i ? '' : 'text-left'}`}>
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {of.rows.length > ROWS_SHOWN ? (
        <p className="m-0 text-quiet">
          The first {ROWS_SHOWN} of {of.rows.length}; the trial table, taken out as a file, holds every one.
        </p>
      ) : null}
    </div>
  )
}

function Save({ box, name }: { box: React.RefObject<HTMLDivElement | null>; name: string }) {
  const [says, setSays] = useState('')
  const save = async (width: number | null) => {
    const svg = box.current?.querySelector('svg')
    if (!svg) return setSays('There is nothing drawn to save yet.')
    try {
      const blob = width === null ? new Blob([await svgOf(svg, name)], { type: 'image/svg+xml' }) : await pngOf(svg, name, width)
      handOver(blob, `${name.replace(/[^\p{L}\p{N} ,.-]/gu, '')}.${width === null ? 'svg' : 'png'}`)
      setSays('')
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <>
      <Menu label="Save this picture" className="btn btn-plain px-0">
        <Item className={ITEM} onSelect={() => void save(null)}>
          As SVG, sharp at any size
        </Item>
        {WIDTHS.map(([width, label]) => (
          <Item key={width} className={ITEM} onSelect={() => void save(width)}>
            As PNG, {label}
          </Item>
        ))}
      </Menu>
      <Told says={says} />
    </>
  )
}

/** Every picture that there is something to draw for. */
function picturesOf(study: Study, seen: SeenTrial[], a: Analysis, response: string, found: Pictures): Picture[] {
  const unit = unitOf(study, response)
  const along = firstOf(study.draft).unit
  const { fit, order, landed, crossed, heats } = found
  const made: Picture[] = []
  if (a.effect.kind === 'trend') {
    const trend = a.effect.trend
    made.push({
      id: 'against',
      label: `Against ${a.factor.name}`,
      says: fit?.band.length
        ? 'A bar is the mean of its level. The shaded band is where the curve itself may lie (95 %).'
        : 'A bar is the mean of its level; the curve goes through all trials.',
      draw: () => <Against study={study} seen={seen} trend={trend} analysis={a} response={response} band={fit?.band ?? []} />,
    })
  }
  if (fit)
    made.push({
      id: 'misses',
      label: 'Off the curve',
      says: 'How far each trial lies above or below the curve. A bend that is left over here means that another curve would fit better; the shaded strip is their spread.',
      draw: () => <Misses study={study} fit={fit} unit={unit} factor={a.factor.name} factorUnit={a.factor.unit ?? ''} />,
      table: missesTable(study, fit, unit),
    })
  if (order)
    made.push({
      id: 'order',
      label: 'In order',
      says:
        order.slope === null
          ? 'Each reading less the mean of its level. There are too few trials to tell a drift.'
          : order.p !== null && order.p < 0.05
            ? 'Each reading less the mean of its level: the readings drift as the lesson goes on (full line).'
            : 'Each reading less the mean of its level: no drift that luck could not make (broken line).',
      draw: () => <InOrder study={study} order={order} unit={unit} />,
      table: orderTable(study, order, unit),
    })
  if (landed.length) {
    made.push({
      id: 'landed',
      label: 'From above',
      says: 'Seen from above; off the line is drawn larger than along it. A cross is the middle of a level’s landings; its ring holds half of them.',
      draw: () => <Landed study={study} landed={landed} unit={along} />,
      table: landedTable(study, landed, along),
    })
    if (landed.length > 1)
      made.push({
        id: 'straight',
        label: 'Straight, far',
        says: 'Upright: the mean distance off the line. The farther right, the farther it went; the lower, the straighter.',
        draw: () => <Straight study={study} landed={landed} unit={along} />,
        table: landedTable(study, landed, along),
      })
  }
  if (crossed.length)
    made.push({
      id: 'crossed',
      label: 'Both variables',
      says: 'Lines side by side: each variable does its own. Lines that part or cross: what one does depends on the other.',
      draw: () => <Crossed study={study} cells={crossed} unit={unit} />,
      table: crossedTable(study, crossed, unit),
    })
  if (heats)
    made.push({
      id: 'heats',
      label: 'Mean places',
      says: heats.says,
      draw: () => <Heats study={study} heats={heats} />,
      table: heatsTable(study, heats),
    })
  return made
}

/** How the devices behaved, by level and, where trials tell of more than one, by version. */
function behavedOf(study: Study, beside: Beside): Picture[] {
  const made: Picture[] = []
  const add = (id: string, label: string, rows: Beside['behaviours'], versions: boolean) => {
    if (rows.length)
      made.push({
        id,
        label,
        says: 'A mark for every trial in which the word was noted; a trial can show more than one.',
        draw: () => <Behaved study={study} rows={rows} versions={versions} />,
        table: behavedTable(study, rows, versions),
      })
  }
  add('behaved', 'Behaviour', beside.behaviours, false)
  add('versions', 'By version', beside.by_version, true)
  return made
}
