import { type ReactNode, useLayoutEffect, useRef, useState } from 'react'

const LEAST = 0.2
const MOST = 2

/** What is drawn, made smaller or larger until it fills its place without leaving it. */
export function Fitted({ children, again }: { children: ReactNode; again: string }) {
  const outer = useRef<HTMLDivElement>(null)
  const inner = useRef<HTMLDivElement>(null)
  const [k, setK] = useState(1)
  // biome-ignore lint/correctness/useExhaustiveDependencies: fitted anew when the page around it is laid out anew
  useLayoutEffect(() => {
    const [o, i] = [outer.current, inner.current]
    if (!o || !i) return
    // what is drawn is laid out anew at each width, so a size that was too large once stays so: else it would swing between two for ever
    let tooLarge = Number.POSITIVE_INFINITY
    let high = o.clientHeight
    const fill = () => {
      if (!o.clientHeight || !i.offsetHeight) return
      if (Math.abs(o.clientHeight - high) > 1) [tooLarge, high] = [Number.POSITIVE_INFINITY, o.clientHeight]
      const next = Math.max(LEAST, Math.min(MOST, o.clientHeight / i.offsetHeight))
      setK((now) => {
        if (next < now - 0.003) {
          tooLarge = Math.min(tooLarge, now)
          return next
        }
        const larger = next < tooLarge - 0.015 ? next : (now + tooLarge) / 2
        return next > now + 0.015 && larger > now + 0.03 ? larger : now
      })
    }
    let waits = 0
    // what is drawn follows its width one frame later: it is measured when that has come to rest
    const settle = () => {
      cancelAnimationFrame(waits)
      waits = requestAnimationFrame(() => {
        waits = requestAnimationFrame(fill)
      })
    }
    const see = new ResizeObserver(settle)
    see.observe(o)
    see.observe(i)
    fill()
    return () => {
      see.disconnect()
      cancelAnimationFrame(waits)
    }
  }, [again])
  return (
    <div ref={outer} className="h-full min-h-0 overflow-hidden">
      <div ref={inner} className="origin-top-left" style={{ width: `${100 / k}%`, transform: `scale(${k})` }}>
        {children}
      </div>
    </div>
  )
}
