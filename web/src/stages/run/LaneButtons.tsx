import type { ReactNode } from 'react'
import { Link } from 'react-router'
import type { Study } from '../../data/api'
import { Key } from '../../parts/parts'

export type Open = 'none' | 'fault' | 'keys' | 'count' | 'agreed' | 'now' | 'frames' | 'sound' | 'thumbs' | 'instruments'

/** A key that is shown only where there is a keyboard. */
export const Pressed = ({ children }: { children: ReactNode }) => (
  <span className="max-md:hidden">
    <Key>{children}</Key>
  </span>
)

/** "at least" and "estimate" by one press: how the written text changes. */
export const asBound = (text: string) => (text.endsWith('+') ? text.slice(0, -1) : `${text}+`)
export const asEstimate = (text: string) => (text.startsWith('~') ? text.slice(1) : `~${text}`)

/** What can be done with the reading in hand, and below it what is needed now and then. */
export function LaneButtons({
  study,
  value,
  written,
  running,
  practice,
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
  onText: (text: string) => void
  onKeep: () => void
  onUndo: () => void
  onSkip: (() => void) | undefined
  onPractice: () => void
  onSheet: (sheet: Open) => void
}) {
  const timed = Boolean(study.draft.measures[0]?.timed)
  const meter = ['voltage', 'mass', 'time'].includes(study.draft.measures[0]?.quantity ?? '')
  return (
    <>
      <div className="mt-4 flex flex-wrap gap-2.5">
        <button type="button" className="btn btn-act min-h-[64px] grow text-[1.2rem] md:min-w-[9.5rem] md:grow-0" onClick={onKeep} disabled={running}>
          Keep <Pressed>Enter</Pressed>
        </button>
        <button type="button" className="btn min-h-[64px] grow px-3 md:grow-0" onClick={() => onSheet('fault')}>
          Void <Pressed>V</Pressed>
        </button>
        {written ? (
          <>
            <button type="button" className="btn min-h-[64px] grow px-3 md:grow-0" disabled={!value.trim()} onClick={() => onText(asBound(value))}>
              At least <Pressed>+</Pressed>
            </button>
            <button
              type="button"
              className="btn min-h-[64px] grow px-3 md:grow-0"
              disabled={!value.trim()}
              aria-pressed={value.startsWith('~')}
              onClick={() => onText(asEstimate(value))}
            >
              About <Pressed>~</Pressed>
            </button>
          </>
        ) : null}
        <button type="button" className="btn min-h-[64px] grow px-3 md:grow-0" onClick={onUndo}>
          Undo <Pressed>Z</Pressed>
        </button>
      </div>
      <div className="mb-1 flex flex-wrap gap-x-1 [&>*]:px-1.5">
        <button type="button" className="btn btn-plain" onClick={onSkip} disabled={!onSkip || running || value.trim() !== ''}>
          Skip <Pressed>S</Pressed>
        </button>
        <button type="button" className="btn btn-plain" onClick={() => onSheet('count')}>
          Count down <Pressed>D</Pressed>
        </button>
        <button type="button" className="btn btn-plain" aria-pressed={practice} onClick={onPractice}>
          {practice ? 'Count it again' : 'Practice'} <Pressed>P</Pressed>
        </button>
        <button type="button" className="btn btn-plain" onClick={() => onSheet('now')}>
          As it is now <Pressed>N</Pressed>
        </button>
        {timed ? (
          <>
            <button type="button" className="btn btn-plain" onClick={() => onSheet('frames')}>
              Frames
            </button>
            <button type="button" className="btn btn-plain" onClick={() => onSheet('sound')}>
              Sound
            </button>
            <button type="button" className="btn btn-plain" onClick={() => onSheet('thumbs')}>
              Try the thumb
            </button>
          </>
        ) : null}
        {meter ? (
          <button type="button" className="btn btn-plain" onClick={() => onSheet('instruments')}>
            Instruments
          </button>
        ) : null}
        <Link to={`/study/${study.id}/sheet`} className="btn btn-plain">
          Sheet
        </Link>
        <Link to={`/study/${study.id}/trials`} className="btn btn-plain md:hidden">
          All trials
        </Link>
        <button type="button" className="btn btn-plain max-md:hidden" onClick={() => onSheet('keys')}>
          Keys <Key>?</Key>
        </button>
      </div>
    </>
  )
}
