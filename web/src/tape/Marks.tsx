import { useId } from 'react'
import { colourOf, type PlacedMark, shapeOf } from './geometry'
import { Mark } from './Tape'

/** From so many marks on, a crowd is drawn as one shape for each kind: what lies within a pixel or two could not be told apart anyway. */
export const CROWD = 400
const GRAIN = 2

export type Spot = PlacedMark & { y: number }

/** The marks of one level, each at its place. */
export function Marks({ spots, shape, r }: { spots: readonly Spot[]; shape: number; r: number }) {
  if (spots.length <= CROWD) return spots.map((m) => <Mark key={m.id} mark={m} shape={shape} r={r} y={m.y} />)
  const kinds = [...new Set(spots.map((m) => m.kind))]
  return kinds.map((kind) => <Crowd key={kind} kind={kind} spots={spots.filter((m) => m.kind === kind)} shape={shape} r={r} />)
}

/** Very many marks of one kind as one path whose every corner carries the mark: one thing to draw, to scroll and to save. */
function Crowd({ kind, spots, shape, r }: { kind: PlacedMark['kind']; spots: readonly Spot[]; shape: number; r: number }) {
  const id = useId()
  const at = new Set(spots.map((m) => `${Math.round(m.x / GRAIN) * GRAIN} ${Math.round(m.y / GRAIN) * GRAIN}`))
  const box = r * 3
  return (
    <g data-crowd={spots.length} data-kind={kind}>
      <marker
        id={id}
        markerUnits="userSpaceOnUse"
        markerWidth={box * 2}
        markerHeight={box * 2}
        viewBox={`${-box} ${-box} ${box * 2} ${box * 2}`}
        overflow="visible"
      >
        {kind === 'void' ? (
          <path
            d={`M ${-r * 0.55} ${-r * 0.55} L ${r * 0.55} ${r * 0.55} M ${r * 0.55} ${-r * 0.55} L ${-r * 0.55} ${r * 0.55}`}
            stroke="var(--quiet)"
            strokeWidth={2}
          />
        ) : kind === 'exact' ? (
          <path d={shapeOf(shape)(r)} fill={colourOf(shape)} opacity={0.4} />
        ) : (
          <path
            d={shapeOf(shape)(r)}
            fill="var(--floor)"
            stroke={colourOf(shape)}
            strokeWidth={2}
            strokeDasharray={kind === 'likely' ? '2.5 2.5' : undefined}
          />
        )}
      </marker>
      <path d={`M ${[...at].join(' L ')}`} fill="none" stroke="none" markerStart={`url(#${id})`} markerMid={`url(#${id})`} markerEnd={`url(#${id})`} />
    </g>
  )
}
