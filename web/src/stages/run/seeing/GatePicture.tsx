import { type PointerEvent, useRef, useState } from 'react'
import type { Line } from '../../../machines/seeing/gate'
import { middleOf, moved, roleSaid } from '../../../machines/seeing/lines'
import { useWidth } from '../../../tape/Tape'
import { TapeOver } from './TapeOver'
import type { Gates } from './useGates'

type Held = { n: number; part: 'whole' | 'first' | 'last'; x: number; y: number }
const KEYS: Record<string, readonly [number, number]> = { ArrowLeft: [-0.005, 0], ArrowRight: [0.005, 0], ArrowUp: [0, -0.005], ArrowDown: [0, 0.005] }

/** The live picture with its lines, moved by finger or by the arrow keys; laying: the place of the tape that is touched next, null for none. */
export function GatePicture({ gates, laying, onTouch }: { gates: Gates; laying: 'a' | 'b' | null; onTouch: (at: { x: number; y: number }) => void }) {
  const { camera, setting, moveLine, size } = gates
  const [box, width] = useWidth()
  const [ratio, setRatio] = useState(9 / 16)
  const held = useRef<Held | null>(null)
  const high = width * ratio
  const share = (e: PointerEvent<Element>) => {
    const r = box.current?.getBoundingClientRect()
    return r ? { x: (e.clientX - r.left) / r.width, y: (e.clientY - r.top) / (r.height || 1) } : { x: 0, y: 0 }
  }
  const grab = (n: number, part: Held['part']) => (e: PointerEvent<Element>) => {
    if (laying) return
    e.preventDefault()
    e.currentTarget.setPointerCapture(e.pointerId)
    held.current = { n, part, ...share(e) }
  }
  const drag = (e: PointerEvent<Element>) => {
    const now = held.current
    const line = now && setting.lines[now.n]?.line
    if (!now || !line) return
    const to = share(e)
    held.current = { ...now, ...to }
    moveLine(now.n, moved(line, now.part, to.x - now.x, to.y - now.y))
  }
  const many = setting.lines.length > 2
  const [live, ...more] = setting.tape ? [setting.tape] : []
  return (
    <div
      ref={box}
      className="relative w-full overflow-hidden bg-hair/50"
      style={{ height: high || undefined, cursor: laying ? 'crosshair' : undefined }}
      data-gate={camera.source || 'off'}
    >
      <video
        ref={camera.video}
        muted
        playsInline
        loop
        className="absolute inset-0 h-full w-full object-fill"
        aria-label="The camera’s picture"
        onLoadedMetadata={(e) => {
          const v = e.currentTarget
          if (v.videoWidth) setRatio(v.videoHeight / v.videoWidth)
          size.current = { wide: v.videoWidth, high: v.videoHeight }
        }}
      />
      <svg
        className="absolute inset-0"
        width={width}
        height={high}
        role="group"
        aria-label="Lines over the picture"
        style={{ touchAction: 'none' }}
        onPointerMove={drag}
        onPointerUp={() => {
          held.current = null
        }}
        onPointerDown={(e) => laying && onTouch(share(e))}
      >
        {live && more.length === 0 ? (
          <TapeOver a={{ x: live.a.x * width, y: live.a.y * high }} b={{ x: live.b.x * width, y: live.b.y * high }} says={[live.a.says, live.b.says]} />
        ) : null}
        {setting.lines.map(({ role, line }, n) =>
          setting.press && role.start ? null : (
            <OneLine
              key={roleSaid(role, many)}
              line={line}
              name={roleSaid(role, many)}
              start={role.start}
              width={width}
              high={high}
              onGrab={(part) => grab(n, part)}
              onKey={(dx, dy) => moveLine(n, moved(line, 'whole', dx, dy))}
            />
          ),
        )}
      </svg>
    </div>
  )
}

type OneProps = {
  line: Line
  name: string
  start: boolean
  width: number
  high: number
  onGrab: (part: Held['part']) => (e: PointerEvent<Element>) => void
  onKey: (dx: number, dy: number) => void
}

function OneLine({ line, name, start, width, high, onGrab, onKey }: OneProps) {
  const [x0, y0, x1, y1] = [line.x0 * width, line.y0 * high, line.x1 * width, line.y1 * high]
  const label = 96
  const top = y0 <= y1 ? { x: x0, y: y0 } : { x: x1, y: y1 }
  const flat = Math.abs(y1 - y0) < Math.abs(x1 - x0)
  const at = flat ? { x: (x0 + x1) / 2, y: (y0 + y1) / 2 - 22 } : { x: top.x, y: top.y + 32 }
  return (
    <g
      tabIndex={0}
      role="slider"
      aria-label={`${name}: arrow keys move it`}
      aria-valuenow={Math.round(100 * (flat ? middleOf(line).y : middleOf(line).x))}
      aria-valuemin={0}
      aria-valuemax={100}
      data-line={name}
      style={{ cursor: 'grab' }}
      onKeyDown={(e) => {
        const by = KEYS[e.key]
        if (!by) return
        e.preventDefault()
        e.stopPropagation()
        onKey(by[0] * (e.shiftKey ? 5 : 1), by[1] * (e.shiftKey ? 5 : 1))
      }}
    >
      <line x1={x0} y1={y0} x2={x1} y2={y1} stroke="transparent" strokeWidth={44} onPointerDown={onGrab('whole')} />
      <line x1={x0} y1={y0} x2={x1} y2={y1} stroke="var(--tape)" strokeWidth={9} pointerEvents="none" />
      <line x1={x0} y1={y0} x2={x1} y2={y1} stroke="#18211f" strokeWidth={2} strokeDasharray={start ? undefined : '6 5'} pointerEvents="none" />
      <g transform={`translate(${at.x} ${at.y})`} pointerEvents="none">
        <rect x={-label / 2} y={-14} width={label} height={28} fill="#18211f" />
        <text y={6} textAnchor="middle" fontSize={16} fill="var(--tape)" style={{ fontFamily: 'var(--font-big)', fontWeight: 650, fontStretch: '80%' }}>
          {name}
        </text>
      </g>
      {(['first', 'last'] as const).map((end) => (
        <g key={end} onPointerDown={onGrab(end)}>
          <circle cx={end === 'first' ? x0 : x1} cy={end === 'first' ? y0 : y1} r={24} fill="transparent" />
          <circle cx={end === 'first' ? x0 : x1} cy={end === 'first' ? y0 : y1} r={8} fill="var(--tape)" stroke="#18211f" strokeWidth={2} />
        </g>
      ))}
    </g>
  )
}
