import { useState } from 'react'
import type { LaidTape } from '../../../machines/seeing/lines'
import type { Trouble } from '../../../machines/seeing/watch'
import { Field, Tick, Told } from '../../../parts/parts'
import type { Gates } from './useGates'

const TROUBLES: Record<Trouble, string> = {
  light: 'The light flickers. It is evened out; daylight or another lamp would be better.',
  moved: 'The tablet was moved, or most of the picture changed. Stand it firmly, and look whether the lines still lie where they should.',
  slow: 'Pictures were left out: this tablet is busy. The time goes by the pictures that came, and its doubt with them.',
  two: 'Two things crossed the line together. Take the other out of the picture, or the line round it.',
  shadow: 'What crossed only darkened the ground, as a shadow does. Look whether the thing itself crossed.',
}

/** How well it is timed, and what is wrong with the picture. */
export function GateTold({ gates }: { gates: Gates }) {
  const { camera, rate, learned, troubles } = gates
  return (
    <div role="status" aria-live="polite" data-gate-told>
      {camera.source && rate ? (
        <p className="m-0">
          <strong>{Math.round(rate)} pictures a second.</strong> One lasts {Math.round(1000 / rate)} ms; between two the crossing is found from where the front
          stood in them.
        </p>
      ) : null}
      {camera.source && !learned ? <p className="m-0 font-semibold">It learns what the lines look like when nothing is there. Keep the way clear.</p> : null}
      {troubles.map((t) => (
        <p key={t} className="m-0 mt-1 font-semibold text-doubt" data-trouble={t}>
          {TROUBLES[t]}
        </p>
      ))}
    </div>
  )
}

/** Opening the camera, the tape and the lines. */
export function GateSetUp({
  gates,
  made,
  laying,
  onLaying,
}: {
  gates: Gates
  /** The made clip that stands in for the camera. */
  made: string
  laying: 'a' | 'b' | null
  onLaying: (which: 'a' | 'b' | null) => void
}) {
  const { camera, setting, change, layTape } = gates
  const [open, setOpen] = useState(false)
  if (!camera.source)
    return (
      <div className="grid gap-3">
        <p className="m-0">
          Stand the tablet firmly, square to the way, so that both gates are in the picture. What crosses a line is timed. The picture stays on this tablet.
        </p>
        <Told says={camera.says} />
        <button type="button" className="btn btn-act min-h-[64px]" disabled={camera.busy} onClick={() => camera.open()}>
          Open the camera
        </button>
        <button type="button" className="btn min-h-[48px]" disabled={camera.busy} onClick={() => camera.open(made)}>
          Try it without a camera
        </button>
      </div>
    )
  const tape = setting.tape
  const says = (which: 'a' | 'b', text: string) => tape && layTape({ ...tape, [which]: { ...tape[which], says: text } } as LaidTape)
  return (
    <div className="grid gap-2">
      <button type="button" className="btn btn-plain justify-self-start px-0" aria-expanded={open} onClick={() => setOpen((on) => !on)}>
        Lines and tape
      </button>
      {open ? (
        <>
          <p className="m-0 text-quiet">Drag a line by its middle or an end; with the arrow keys it moves too.</p>
          <label className="grid font-semibold">
            Something is in a line from here
            <input
              type="range"
              min={0.01}
              max={0.5}
              step={0.01}
              value={setting.threshold}
              style={{ minHeight: 44 }}
              onChange={(e) => change({ threshold: Number(e.target.value) })}
            />
          </label>
          <Tick checked={setting.press} onChange={(press) => change({ press })}>
            The start is pressed, not seen
          </Tick>
          <button type="button" className="btn min-h-[48px]" aria-pressed={laying !== null} onClick={() => onLaying(laying ? null : 'a')}>
            {laying === 'a' ? 'Touch the first number of the tape' : laying === 'b' ? 'Touch the second number' : tape ? 'Lay the tape anew' : 'Lay the tape'}
          </button>
          {tape ? (
            <div className="grid grid-cols-2 gap-3">
              <Field label="It shows there, in m">
                {(p) => <input {...p} className="field" inputMode="decimal" value={tape.a.says} onChange={(e) => says('a', e.target.value)} />}
              </Field>
              <Field label="and there">
                {(p) => <input {...p} className="field" inputMode="decimal" value={tape.b.says} onChange={(e) => says('b', e.target.value)} />}
              </Field>
            </div>
          ) : null}
          <button type="button" className="btn btn-plain justify-self-start px-0" onClick={gates.relearn}>
            Learn the empty picture anew
          </button>
          <button type="button" className="btn btn-plain justify-self-start px-0" onClick={camera.close}>
            Close the camera
          </button>
        </>
      ) : null}
    </div>
  )
}
