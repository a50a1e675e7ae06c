import { useEffect, useState } from 'react'

/** Three, two, one, go: large enough for a hall. Any key or press ends it. */
export function CountDown({ onEnd }: { onEnd: () => void }) {
  const [n, setN] = useState(3)
  useEffect(() => {
    const timer = setTimeout(() => (n <= 0 ? onEnd() : setN(n - 1)), n <= 0 ? 700 : 1000)
    return () => clearTimeout(timer)
  }, [n, onEnd])
  useEffect(() => {
    const end = (e: KeyboardEvent) => {
      if (e.key === 'Escape') onEnd()
    }
    window.addEventListener('keydown', end)
    return () => window.removeEventListener('keydown', end)
  }, [onEnd])
  return (
    <button
      type="button"
      className="big fixed inset-0 z-40 grid place-items-center border-0 bg-tape text-[40vmin] text-tape-ink"
      onClick={onEnd}
      aria-label="Stop the count-down"
    >
      <span aria-live="assertive">{n > 0 ? n : 'Go'}</span>
    </button>
  )
}
