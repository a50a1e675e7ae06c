import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import type { Study, Turn } from '../../../data/api'
import { plainTime, touched } from '../../../machines/seeing/lines'
import { Tick } from '../../../parts/parts'
import { GatePicture } from './GatePicture'
import { GateSetUp, GateTold } from './GateSide'
import { SignalStrip } from './SignalStrip'
import { type PassedAt, useGates } from './useGates'

type Props = {
  study: Study
  turns: readonly Turn[]
  /** When this heat was let go by the page's clock, in ms; null before. */
  from: number | null
  onRelease: (at: number) => void
  /** ms: since the release. */
  onLand: (lane: number, ms: number, text: string, stamps: number[]) => void
  onClose: () => void
}

/** The camera as the gates of a heat: one line for the release of all, and one for the end of each lane. */
export function HeatGate({ study, turns, from, onRelease, onLand, onClose }: Props) {
  const [counts, setCounts] = useState(false)
  const [marks, setMarks] = useState<Record<number, number>>({})
  const [laying, setLaying] = useState<'a' | 'b' | null>(null)
  const of = turns.map((t) => t.lane).join()
  const lanes = useMemo(() => of.split(',').map(Number), [of])
  const start = useRef<PassedAt | null>(null)
  const live = useRef({ counts, from, onRelease, onLand })
  live.current = { counts, from, onRelease, onLand }
  useEffect(() => {
    // kept, voided or taken back: the next heat has its own start
    if (from === null) start.current = null
  }, [from])
  const passed = useCallback(
    (p: PassedAt) => {
      const row = p.role.start ? 0 : lanes.indexOf(p.role.lane) + 1
      setMarks((m) => (p.role.start ? { 0: p.t } : { ...m, [row]: p.t }))
      const now = live.current
      if (!now.counts) return
      if (p.role.start) {
        if (now.from !== null) return // it has been let go already
        start.current = p
        now.onRelease(p.at)
        return
      }
      const first = start.current
      if (!first || now.from === null) return
      const took = p.t - first.t
      now.onLand(p.role.lane, took * 1000, plainTime(took, Math.hypot(first.u, p.u)), [first.t, p.t])
    },
    [lanes],
  )
  const again = useCallback(() => {
    start.current = null
    setMarks({})
  }, [])
  const gates = useGates(study.id, lanes, true, passed, again)
  const touch = (at: { x: number; y: number }) => {
    gates.layTape(touched(gates.setting.tape, laying ?? 'a', at))
    setLaying(laying === 'a' ? 'b' : null)
  }
  return (
    <section aria-label="The camera as the gates" className="grid gap-x-5 gap-y-3 px-4 pt-3 md:grid-cols-[minmax(0,1fr)_minmax(0,22rem)] md:px-8">
      <div className="min-w-0 md:max-w-[calc((100dvh-24rem)*16/9)]">
        <GatePicture gates={gates} laying={laying} onTouch={touch} />
      </div>
      <div className="grid content-start gap-2">
        <GateTold gates={gates} />
        <GateSetUp gates={gates} made="heat" laying={laying} onLaying={setLaying} />
        <SignalStrip gates={gates} marks={marks} />
        <Tick checked={counts} onChange={setCounts}>
          It counts now: what crosses the start lets the heat go
        </Tick>
        <button type="button" className="btn btn-plain justify-self-start px-0" onClick={onClose}>
          Back to the thumb
        </button>
      </div>
    </section>
  )
}
