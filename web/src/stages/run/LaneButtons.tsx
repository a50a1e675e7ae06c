import { type ReactNode, Suspense } from 'react'
import type { Study } from '../../data/api'
import { Key } from '../../parts/parts'
import { soon } from '../../parts/soon'

const MoreButtons = soon(async () => ({ default: (await import('./MoreButtons')).MoreButtons }))

export type Open =
  | 'none'
  | 'fault'
  | 'keys'
  | 'count'
  | 'agreed'
  | 'now'
  | 'frames'
  | 'sound'
  | 'thumbs'
  | 'instruments'
  | 'map'
  | 'hand'
  | 'gate'
  | 'follow'
  | 'picture'

/** A key that is shown only where there is a keyboard. */
export const Pressed = ({ children }: { children: ReactNode }) => (
  <span className="max-md:hidden">
    <Key>{children}</Key>
  </span>
)

/** "at least" and "estimate" by one press: how the written text changes. */
export const asBound = (text: string) => (text.endsWith('+') ? text.slice(0, -1) : `${text}+`)
export const asEstimate = (text: string) => (text.startsWith('~') ? text.slice(1) : `~${text}`)

/** "at least" and "estimate" by one press. */
function Bounds({ value, onText, className }: { value: string; onText: (text: string) => void; className: string }) {
  const look = `btn min-h-[64px] px-2 ${className}`
  return (
    <>
      <button type="button" className={look} disabled={!value.trim()} onClick={() => onText(asBound(value))}>
        At least
      </button>
      <button type="button" className={look} disabled={!value.trim()} aria-pressed={value.startsWith('~')} onClick={() => onText(asEstimate(value))}>
        About
      </button>
    </>
  )
}

/** What can be done with the reading in hand, and below it what is needed now and then. */
export function LaneButtons({
  study,
  value,
  written,
  running,
  practice,
  map,
  onText,
  onKeep,
  onUndo,
  onSkip,
  onPractice,
  onSheet,
}: {
  study: Study
  value: string
  /** Whether the first measure is a number that is written, not pressed. */
  written: boolean
  running: boolean
  practice: boolean
  /** Whether along and off the line are both read, so that a landing can be pointed at. */
  map: boolean
  onText: (text: string) => void
  onKeep: () => void
  onUndo: () => void
  onSkip: (() => void) | undefined
  onPractice: () => void
  onSheet: (sheet: Open) => void
}) {
  return (
    <>
      {/* on a phone in sight at any time, whatever else is written for a trial */}
      <div className="mt-3 flex flex-wrap gap-1.5 max-md:sticky max-md:bottom-0 max-md:z-10 max-md:bg-floor max-md:py-2">
        <button type="button" className="btn btn-act min-h-[64px] grow px-3 text-[1.15rem] md:grow-0" onClick={onKeep} disabled={running}>
          Keep <Pressed>Enter</Pressed>
        </button>
        <button type="button" className="btn min-h-[64px] grow px-2 md:grow-0" onClick={() => onSheet('fault')}>
          Void <Pressed>V</Pressed>
        </button>
        <button type="button" className="btn min-h-[64px] grow px-2 md:grow-0" onClick={onUndo}>
          Undo <Pressed>Z</Pressed>
        </button>
        {written ? <Bounds value={value} onText={onText} className="max-md:hidden" /> : null}
      </div>
      {written ? (
        <div className="flex gap-1.5 md:hidden">
          <Bounds value={value} onText={onText} className="grow" />
        </div>
      ) : null}
      <Suspense fallback={<div className="mb-1 min-h-[48px]" />}>
        <MoreButtons
          study={study}
          practice={practice}
          map={map}
          skips={Boolean(onSkip) && !running && value.trim() === ''}
          onSkip={onSkip}
          onPractice={onPractice}
          onSheet={onSheet}
        />
      </Suspense>
    </>
  )
}
