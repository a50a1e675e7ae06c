import { useEffect, useState } from 'react'
import type { Draft, Templates } from '../../../data/api'
import { DeviceDrawing } from '../../../parts/DeviceDrawing'
import { ownSteps, type Level } from './BuildSheet'

type Build = NonNullable<Templates['build']>
const clock = (s: number) => `${s < 0 ? '−' : ''}${Math.floor(Math.abs(s) / 60)}:${String(Math.abs(s) % 60).padStart(2, '0')}`

/** How it is built, on the projector: one step at a time, large, with the time that is left for it. Arrow keys go on and back, Escape closes. */
export function BuildWall({ build, draft, level, onClose }: { build: Build; draft: Draft; level: Level; onClose: () => void }) {
  const own = ownSteps(draft)
  const steps = own.length ? own.map((says) => ({ says, minutes: 0 })) : build.steps.map((s) => ({ says: s.says[level], minutes: s.minutes }))
  const [at, setAt] = useState(0)
  const [begun, setBegun] = useState(() => Date.now())
  const [now, setNow] = useState(() => Date.now())
  useEffect(() => {
    const go = (by: number) => {
      setAt((n) => Math.min(steps.length - 1, Math.max(0, n + by)))
      setBegun(Date.now())
      setNow(Date.now())
    }
    const hear = (e: KeyboardEvent) => {
      if (e.key === 'Escape') onClose()
      else if (e.key === 'ArrowRight' || e.key === ' ') go(1)
      else if (e.key === 'ArrowLeft') go(-1)
      else return
      e.preventDefault()
    }
    const tick = setInterval(() => setNow(Date.now()), 500)
    window.addEventListener('keydown', hear)
    return () => {
      clearInterval(tick)
      window.removeEventListener('keydown', hear)
    }
  }, [onClose, steps.length])
  const step = steps[at]
  const slip = build.slips.find((s) => s.at === at + 1)
  const left = Math.round((step?.minutes ?? 0) * 60 - (now - begun) / 1000)
  const show = (n: number) => {
    setAt(n)
    setBegun(Date.now())
    setNow(Date.now())
  }
  return (
    <main className="flex min-h-dvh flex-col gap-6 px-6 py-5 md:px-10" data-build-wall>
      <div className="flex flex-wrap items-baseline gap-x-8">
        <h1 className="big m-0 text-[2rem]">{draft.templates?.title || `How to build the ${build.name}`}</h1>
        <span className="grow" />
        {step?.minutes ? (
          <p className={`big m-0 text-[4.4rem] leading-none ${left < 0 ? 'text-doubt' : ''}`} role="timer" aria-label="Time left for this step">
            {clock(left)}
          </p>
        ) : null}
        <button type="button" className="btn btn-plain" onClick={onClose}>
          Back
        </button>
      </div>
      <div className="grid grow content-center gap-8 md:grid-cols-[8rem_1fr]">
        <p className="big m-0 border-t-[12px] border-tape text-[8rem] leading-none">{at + 1}</p>
        <p className="big m-0 max-w-[20ch] text-[clamp(2.4rem,6vw,5.4rem)] leading-[1.08]" aria-live="polite">
          {step?.says}
        </p>
      </div>
      {own.length || !slip ? null : (
        <div className="flex flex-wrap items-center gap-6">
          {(['right', 'wrong'] as const).map((which) => (
            <figure key={which} className="m-0 flex items-center gap-3">
              <DeviceDrawing drawing={slip[which]} label={slip[which].says} className="h-[9rem] w-[12rem]" />
              <figcaption className="text-[1.4rem] font-bold">{which === 'right' ? '✓ right' : '✗ wrong'}</figcaption>
            </figure>
          ))}
          <p className="m-0 max-w-[30rem] text-[1.4rem]">{slip.says}</p>
        </div>
      )}
      <nav aria-label="Steps" className="flex flex-wrap gap-2">
        {steps.map((s, i) => (
          <button
            key={s.says}
            type="button"
            aria-current={i === at ? 'step' : undefined}
            className={`btn min-w-[56px] ${i === at ? 'btn-act' : ''}`}
            onClick={() => show(i)}
          >
            {i + 1}
          </button>
        ))}
      </nav>
    </main>
  )
}
