import { useEffect, useState } from 'react'
import { inSeconds } from '../../machines/trialRun'

/** The running time, repainted with the screen; the reading itself comes from the events' stamps. */
export function Elapsed({ from }: { from: number }) {
  const [ms, setMs] = useState(0)
  useEffect(() => {
    let frame = 0
    const paint = () => {
      setMs(Math.max(0, performance.now() - from))
      frame = requestAnimationFrame(paint)
    }
    frame = requestAnimationFrame(paint)
    return () => cancelAnimationFrame(frame)
  }, [from])
  return inSeconds(ms)
}
