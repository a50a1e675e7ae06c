import type { RefObject } from 'react'

type Props = { strip: RefObject<HTMLDivElement | null>; threshold: number; onThreshold: (threshold: number) => void; low?: boolean }

/** How loud it is, and from where on it counts as a thud. strip: its own --loud (0 to 1) is set as it is heard. */
export function LoudStrip({ strip, threshold, onThreshold, low = false }: Props) {
  return (
    <>
      <div ref={strip} className={`relative bg-tape ${low ? 'h-10' : 'h-14'}`} role="img" aria-label="How loud it is, and the line that counts as a thud">
        <div className="absolute inset-y-0 left-0 bg-tape-ink/70" style={{ width: 'calc(var(--loud, 0) * 100%)' }} />
        <div className="absolute inset-y-0 w-[5px] bg-act" style={{ left: `${threshold * 100}%` }} />
      </div>
      <label className="grid font-semibold">
        Counts as a thud from here
        <input
          type="range"
          min={0.02}
          max={0.98}
          step={0.01}
          value={threshold}
          style={{ minHeight: 48 }}
          onChange={(e) => onThreshold(Number(e.target.value))}
        />
      </label>
    </>
  )
}
