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
    const fill = () => {
      if (!o.clientHeight || !i.offsetHeight) return
      const next = Math.max(LEAST, Math.min(MOST, o.clientHeight / i.offsetHeight))
      setK((now) => (Math.abs(now - next) > 0.015 ? next : now))
    }
    const see = new ResizeObserver(fill)
    see.observe(o)
    see.observe(i)
    fill()
    return () => see.disconnect()
  }, [again])
  return (
    <div ref={outer} className="h-full min-h-0 overflow-hidden">
      <div ref={inner} className="origin-top-left" style={{ width: `${100 / k}%`, transform: `scale(${k})` }}>
        {children}
      </div>
    </div>
  )
}
