import { useEffect, useRef, useState } from 'react'

/** A short tone: lower for the numbers, higher for go. Silent where the browser has no sound. */
function beep(high: boolean, context: AudioContext | null): void {
  if (!context) return
  const tone = context.createOscillator()
  const loud = context.createGain()
  tone.frequency.value = high ? 1320 : 660
  loud.gain.setValueAtTime(0.35, context.currentTime)
  loud.gain.exponentialRampToValueAtTime(0.001, context.currentTime + (high ? 0.6 : 0.18))
  tone.connect(loud).connect(context.destination)
  tone.start()
  tone.stop(context.currentTime + (high ? 0.6 : 0.18))
}

/** Three, two, one, go: large enough for a hall, with sound and light. Any key or press ends it. */
export function CountDown({ onEnd }: { onEnd: () => void }) {
  const [n, setN] = useState(3)
  const sound = useRef<AudioContext | null>(null)
  const end = useRef(onEnd)
  end.current = onEnd
  useEffect(() => {
    sound.current = 'AudioContext' in globalThis ? new AudioContext() : null
    return () => void sound.current?.close()
  }, [])
  useEffect(() => {
    beep(n <= 0, sound.current)
    const timer = setTimeout(() => (n <= 0 ? end.current() : setN(n - 1)), n <= 0 ? 700 : 1000)
    return () => clearTimeout(timer)
  }, [n])
  useEffect(() => {
    const hear = (e: KeyboardEvent) => {
      if (e.key === 'Escape') end.current()
    }
    window.addEventListener('keydown', hear)
    return () => window.removeEventListener('keydown', hear)
  }, [])
  return (
    <button
      type="button"
      className={`big fixed inset-0 z-40 grid place-items-center border-0 text-[40vmin] ${n > 0 ? 'bg-tape text-tape-ink' : 'bg-floor text-ink'}`}
      onClick={onEnd}
      aria-label="Stop the count-down"
    >
      <span aria-live="assertive">{n > 0 ? n : 'Go'}</span>
    </button>
  )
}
