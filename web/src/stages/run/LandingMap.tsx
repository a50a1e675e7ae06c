import type { Study } from '../../data/api'
import { readingOf } from '../../data/measures'
import { levelIndex } from '../../data/trials'
import { plainNumber, type SeenTrial } from '../../machines/turns'
import { Sheet } from '../../parts/parts'
import { colourOf, shapeOf, strip } from '../../tape/geometry'
import { Strip_, useWidth, written } from '../../tape/Tape'
import type { Pair } from './pair'
import type { Texts } from './useEntry'

type Props = {
  open: boolean
  onClose: () => void
  study: Study
  pair: Pair
  seen: readonly SeenTrial[]
  texts: Texts
  onPoint: (name: string, text: string) => void
}

const HIGH = 300

/** The floor from above: the tape along, the line in the middle; a press or drag writes both readings. */
export function LandingMap({ open, onClose, study, pair, seen, texts, onPoint }: Props) {
  return (
    <Sheet open={open} onClose={onClose} title="Point at the landing" wide>
      <Floor study={study} pair={pair} seen={seen} texts={texts} onPoint={onPoint} />
      <button type="button" className="btn btn-act mt-4" onClick={onClose}>
        It lies there
      </button>
    </Sheet>
  )
}

function Floor({ study, pair, seen, texts, onPoint }: Omit<Props, 'open' | 'onClose'>) {
  const [ref, width] = useWidth()
  const { along, off } = pair
  const spots = seen.flatMap((t) => {
    const [x, y] = [readingOf(t, along.measure.id)?.reading?.value, readingOf(t, off.measure.id)?.reading?.value]
    return t.state === 'kept' && x !== undefined && y !== undefined ? [{ id: t.id, level: levelIndex(study, t.level), x, y }] : []
  })
  const typedX = plainNumber(texts[along.name])
  const typedY = plainNumber(texts[off.name])
  const inner = Math.max(80, width - 66)
  const s = strip([0, ...spots.map((p) => p.x * 1.15), typedX ?? 0, 1e-6], inner)
  const wide = Math.max(
    ...spots.map((p) => Math.abs(p.y) * 1.3),
    Math.abs(typedY ?? 0),
    10 ** Math.floor(Math.log10(s.to || 1)) * (off.measure.unit === along.measure.unit ? 0.3 : 30),
  )
  const y = (v: number) => HIGH / 2 + (v / wide) * (HIGH / 2 - 12)
  const stepOf = (text: string, room: number) => plainNumber(text) || 10 ** Math.floor(Math.log10(room / 60))
  const point = (e: React.PointerEvent<SVGSVGElement>) => {
    if (!e.isPrimary || (e.type === 'pointermove' && e.buttons === 0)) return
    const box = e.currentTarget.getBoundingClientRect()
    const px = Math.max(0, Math.min(inner, e.clientX - box.left - 18))
    const py = Math.max(-1, Math.min(1, (e.clientY - box.top - HIGH / 2) / (HIGH / 2 - 12)))
    onPoint(along.name, written(s.from + (px / inner) * (s.to - s.from), stepOf(along.measure.step, s.to)))
    onPoint(off.name, written(py * wide, stepOf(off.measure.step, 2 * wide)).replace('-', '−'))
  }
  const name = (p: typeof along) => `${p.measure.name} ${texts[p.name] || '–'} ${p.measure.unit}`
  return (
    <figure ref={ref} className="m-0">
      <p className="big m-0 text-[1.3rem]" role="status" data-pointed>
        {name(along)}, {name(off)}
      </p>
      <p className="m-0 text-quiet">Left of the line is above it here, right below. Press or drag; the fields at the lane take both.</p>
      {width > 0 ? (
        <svg
          width={width}
          height={HIGH + 58}
          role="img"
          aria-label="The floor from above"
          style={{ touchAction: 'none', cursor: 'crosshair' }}
          onPointerDown={point}
          onPointerMove={point}
          data-floor
        >
          <g transform="translate(18 0)">
            <line x1={0} x2={inner} y1={HIGH / 2} y2={HIGH / 2} stroke="var(--ink)" strokeWidth={2} strokeDasharray="8 5" />
            {spots.map((p) => (
              <path key={p.id} d={shapeOf(p.level)(8)} fill={colourOf(p.level)} transform={`translate(${s.x(p.x)} ${y(p.y)})`} />
            ))}
            {typedX !== null && typedY !== null ? (
              <circle cx={s.x(typedX)} cy={y(typedY)} r={13} fill="none" stroke="var(--ink)" strokeWidth={3} strokeDasharray="4 3" />
            ) : null}
          </g>
          <Strip_ s={s} x0={18} width={inner} y={HIGH} height={50} unit={along.measure.unit} />
        </svg>
      ) : null}
    </figure>
  )
}
