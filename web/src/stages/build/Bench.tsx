import type { Version, VersionDraft } from '../../data/api'
import { DeviceDrawing, type Drawing, Sketch, Strokes } from '../../parts/DeviceDrawing'
import { strip } from '../../tape/geometry'
import { Strip_, useWidth } from '../../tape/Tape'
import { Upright } from '../../tape/Upright'
import { BalanceMarks } from './SideView'
import { photoOf } from './useVersion'

type Props = { study: string; version: Version; draft: VersionDraft; change: (part: Partial<VersionDraft>) => void; face: Face }
export type Face = 'photo' | 'sketch' | 'drawing' | 'nothing'

const ROW = 74
const PINNED = 230
/** Narrower than this the properties stand below the picture. */
const WIDE = 560
const TALL = 400
const UPRIGHT = 48
/** So much longer than it is high a device lies along the tape; the tape stands beside every other. */
const LYING = 1.25
const alike = (one: string, two: string) => one.trim().toLowerCase() === two.trim().toLowerCase()

/** The version as it looks, to scale beside the tape where a size is known, with its properties pinned to it. */
export function Bench({ study, version, draft, change, face }: Props) {
  const [ref, width] = useWidth()
  const rows = draft.properties ?? []
  const wide = width >= WIDE
  const room = wide ? width - PINNED - 24 : width
  const laid = width > 0 && version.drawing ? layOut(version.drawing, room, wide ? TALL : 270) : undefined
  const tall = Math.max(face === 'drawing' && laid ? laid.height + 30 : TALL, ROW * rows.length + 40)
  // in the order of their places, so that no two lines cross; what has no place on the drawing stands last
  const placed = rows.map((row, i) => ({ row, i, pin: face === 'drawing' ? version.drawing?.pins.find((p) => alike(p.name, row.name ?? '')) : undefined }))
  placed.sort((a, b) => (a.pin?.y ?? Number.POSITIVE_INFINITY) - (b.pin?.y ?? Number.POSITIVE_INFINITY))
  return (
    <section ref={ref} className="relative" aria-label="How it looks" data-bench={face}>
      <div className={wide ? 'relative' : ''} style={wide ? { minHeight: tall } : undefined}>
        <div style={wide ? { width: room } : undefined}>
          {face === 'drawing' && version.drawing && laid ? (
            <Drawn version={version} drawing={version.drawing} laid={laid} width={room} />
          ) : (
            <Look study={study} version={version} draft={draft} face={face} />
          )}
        </div>
        {wide && laid ? (
          <svg className="pointer-events-none absolute inset-0 overflow-visible" width={width} height={tall} aria-hidden="true">
            {placed.map(({ pin, i }, row) =>
              pin ? (
                <g key={i} stroke="var(--ink)" strokeWidth={1.4}>
                  <line x1={laid.x0 + pin.x * laid.k} y1={laid.y0 + pin.y * laid.k} x2={width - PINNED - 8} y2={row * ROW + 26} />
                  <circle cx={laid.x0 + pin.x * laid.k} cy={laid.y0 + pin.y * laid.k} r={4} fill="var(--ink)" />
                </g>
              ) : null,
            )}
          </svg>
        ) : null}
        <div className={wide ? 'absolute top-0' : 'mt-4 grid grid-cols-2 gap-x-4'} style={wide ? { width: PINNED, left: width - PINNED } : undefined}>
          {placed.map(({ row, i }) => (
            <Pinned
              key={i}
              row={row}
              n={i}
              was={version.changed.find((c) => alike(c.name, row.name ?? ''))}
              onChange={(part) => change({ properties: rows.map((x, j) => (j === i ? { ...x, ...part } : x)) })}
            />
          ))}
          <button
            type="button"
            className="btn btn-plain justify-self-start px-0 text-[0.95rem]"
            onClick={() => change({ properties: [...rows, { name: '', value: '' }] })}
          >
            Add a property
          </button>
        </div>
      </div>
    </section>
  )
}

/** A property as it is pinned to the drawing: its name and what it is, both written there. */
function Pinned({
  row,
  n,
  was,
  onChange,
}: {
  row: { name?: string; value?: string }
  n: number
  was: Version['changed'][number] | undefined
  onChange: (part: { name?: string; value?: string }) => void
}) {
  const bare =
    'w-full border-0 border-b-2 border-transparent bg-transparent px-1 text-[inherit] text-ink hover:border-quiet focus:border-line focus:outline-none'
  return (
    <div className={`px-1 ${was ? 'bg-tape/45' : ''}`} style={{ minHeight: ROW - 6, marginBottom: 6 }} data-pinned={row.name}>
      <input
        className={`${bare} h-[44px] text-[0.95rem] md:h-[26px] ${row.name ? '' : 'border-b-quiet!'}`}
        aria-label={`Name of property ${n + 1}`}
        value={row.name ?? ''}
        placeholder="a property"
        onChange={(e) => onChange({ name: e.target.value })}
      />
      <span className="flex items-baseline gap-1">
        {was?.was ? (
          <span className="big shrink-0 pl-1 text-[1.2rem] text-quiet">
            {was.was} <span aria-hidden="true">→</span>
            <span className="sr-only">before, now</span>
          </span>
        ) : null}
        <input
          className={`${bare} big h-[44px] min-w-0 md:h-[36px] text-[1.35rem] ${row.value ? '' : 'border-b-quiet!'}`}
          aria-label={row.name || `Property ${n + 1}`}
          value={row.value ?? ''}
          placeholder={row.name ? '30 cm' : 'is'}
          onChange={(e) => onChange({ value: e.target.value })}
        />
      </span>
    </div>
  )
}

type Laid = { k: number; x0: number; y0: number; lying: boolean; height: number; tape: number }

/** Where the drawing stands in so many pixels: k pixels a millimetre, its upper left corner, and how long the tape is. */
function layOut(d: Drawing, room: number, tall: number): Laid {
  const lying = d.width > LYING * d.height
  if (lying) {
    const k = Math.min((room - 84) / (1.12 * d.width), (tall - 110) / d.height)
    return { k, x0: 24, y0: 16, lying, height: Math.max(130, d.height * k + 110), tape: 1.12 * d.width * k }
  }
  const k = Math.min((tall - 50) / (1.12 * d.height), (room - UPRIGHT - 60) / d.width)
  const foot = Math.max(150, 1.12 * d.height * k + 26)
  return { k, x0: Math.max(UPRIGHT + 40, (room + UPRIGHT - d.width * k) / 2), y0: foot - d.height * k, lying, height: foot + 24, tape: 1.12 * d.height * k }
}

/** The plain drawing on the floor with the tape along it or beside it; for a rocket with where it balances and where the air pushes. */
function Drawn({ version, drawing, laid, width }: { version: Version; drawing: Drawing; laid: Laid; width: number }) {
  const { k, x0, y0, lying, height, tape } = laid
  const long = (lying ? drawing.width : drawing.height) / drawing.unit_mm
  const s = strip([0, long], tape)
  const side = version.side?.outline ? version.side : undefined
  const foot = y0 + drawing.height * k
  return (
    <>
      <svg width={width} height={height} role="img" aria-label={[drawing.says, ...(side?.says ?? [])].join(' ')}>
        {lying || drawing.view !== 'from the side' ? null : <line x1={20} x2={width} y1={foot} y2={foot} stroke="var(--ink)" strokeWidth={2.5} />}
        {drawing.to_scale ? (
          lying ? (
            <Strip_ s={s} x0={x0} width={tape} y={foot + 44} height={44} unit={drawing.unit} />
          ) : (
            <Upright s={s} x={8} y0={foot} length={tape} width={UPRIGHT} unit={drawing.unit} />
          )
        ) : null}
        <g transform={`translate(${x0} ${y0}) scale(${k})`}>
          <Strokes drawing={drawing} />
        </g>
        {side && lying ? (
          <BalanceMarks
            side={side}
            x={(mm) => x0 + mm * k}
            middle={y0 + (drawing.height * k) / 2}
            half={Math.max(8, ((side.outline?.body_diameter ?? 0) * k) / 2)}
            base={foot + 44}
          />
        ) : null}
      </svg>
      <p className="m-0 text-[0.92rem] text-quiet">
        {drawing.view === 'flat, as it is cut' ? 'Flat, as it is cut' : `Seen ${drawing.view}`}
        {drawing.to_scale ? ', to scale; what is not written is drawn as is usual.' : ', not to scale: no size is written yet.'}
        {side?.balance != null ? ' Wedge: where it balances.' : ''}
        {side?.pressure != null ? ' Strokes across the body: where the air pushes.' : ''}
      </p>
    </>
  )
}

/** A version as its group shows it, else as it is drawn for it: wherever a small picture of it stands. */
export function Look({ study, version, draft, face, small = false }: { study: string; version: Version; draft: VersionDraft; face: Face; small?: boolean }) {
  const label = `${version.device}, version ${version.number}`
  const size = small ? 'h-full w-full' : 'max-h-[25rem] w-full'
  if (face === 'photo') return <img className={`${size} object-contain ${small ? '' : 'object-left'}`} src={photoOf(study, version.id)} alt={label} />
  if (face === 'sketch') return <Sketch strokes={draft.sketch ?? []} label={`Sketch of ${label}`} className={size} thick={small ? 2 : 3} />
  if (face === 'drawing' && version.drawing) return <DeviceDrawing drawing={version.drawing} label={label} className={size} />
  return small ? null : <p className="m-0 py-10 text-quiet">No picture yet. Draw it or photograph it, so that everyone sees which one is meant.</p>
}

/** Its photo, else the sketch, else the plain drawing. */
export const faces = (version: Version, draft: VersionDraft): Face[] => [
  ...(version.photo ? (['photo'] as const) : []),
  ...(draft.sketch?.length ? (['sketch'] as const) : []),
  ...(version.drawing ? (['drawing'] as const) : []),
]
