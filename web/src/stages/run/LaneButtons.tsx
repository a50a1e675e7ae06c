import { DropdownMenu } from 'radix-ui'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import type { Study } from '../../data/api'
import { Key } from '../../parts/parts'

export type Open = 'none' | 'fault' | 'keys' | 'count' | 'agreed' | 'now' | 'frames' | 'sound' | 'thumbs' | 'instruments' | 'map'

/** Quantities that some instrument sends. */
const INSTRUMENTS_READ = ['time', 'mass', 'voltage']
const ITEM =
  'flex min-h-[48px] cursor-pointer items-center px-3 font-semibold text-ink no-underline outline-none data-[highlighted]:bg-tape data-[highlighted]:text-tape-ink'

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
  const timed = Boolean(study.draft.measures[0]?.timed)
  const quantity = study.draft.measures[0]?.quantity ?? ''
  const ways: [Open, string][] = [
    ...(timed
      ? ([
          ['frames', 'Time it by frames of a video'],
          ['sound', 'Time it by sound'],
          ['thumbs', 'Try the thumb'],
        ] as [Open, string][])
      : []),
    ...(map ? ([['map', 'Point at the landing']] as [Open, string][]) : []),
    ...(INSTRUMENTS_READ.includes(quantity) ? ([['instruments', 'Instruments']] as [Open, string][]) : []),
  ]
  return (
    <>
      <div className="mt-3 flex flex-wrap gap-1.5">
        <button type="button" className="btn btn-act min-h-[64px] grow px-3 text-[1.15rem] md:grow-0" onClick={onKeep} disabled={running}>
          Keep <Pressed>Enter</Pressed>
        </button>
        <button type="button" className="btn min-h-[64px] grow px-2 md:grow-0" onClick={() => onSheet('fault')}>
          Void <Pressed>V</Pressed>
        </button>
        <button type="button" className="btn min-h-[64px] grow px-2 md:grow-0" onClick={onUndo}>
          Undo <Pressed>Z</Pressed>
        </button>
        {written ? (
          <>
            <button
              type="button"
              className="btn min-h-[64px] grow px-2 max-md:basis-[48%] md:grow-0"
              disabled={!value.trim()}
              onClick={() => onText(asBound(value))}
            >
              At least
            </button>
            <button
              type="button"
              className="btn min-h-[64px] grow px-2 max-md:basis-[48%] md:grow-0"
              disabled={!value.trim()}
              aria-pressed={value.startsWith('~')}
              onClick={() => onText(asEstimate(value))}
            >
              About
            </button>
          </>
        ) : null}
      </div>
      <div className="mb-1 flex flex-wrap gap-x-1 [&>*]:px-1.5">
        <button type="button" className="btn btn-plain" onClick={onSkip} disabled={!onSkip || running || value.trim() !== ''}>
          Skip
        </button>
        <button type="button" className="btn btn-plain" onClick={() => onSheet('count')}>
          Count down
        </button>
        <button type="button" className="btn btn-plain" aria-pressed={practice} onClick={onPractice}>
          {practice ? 'Count it again' : 'Practice'}
        </button>
        <button type="button" className="btn btn-plain" onClick={() => onSheet('now')}>
          As it is now
        </button>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className="btn btn-plain">Other ways</DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content className="z-20 grid min-w-[16rem] border-2 border-ink bg-floor p-1" sideOffset={4} collisionPadding={8}>
              {ways.map(([sheet, label]) => (
                <DropdownMenu.Item key={sheet} className={ITEM} onSelect={() => onSheet(sheet)}>
                  {label}
                </DropdownMenu.Item>
              ))}
              <DropdownMenu.Item className={`${ITEM} max-md:hidden`} onSelect={() => onSheet('keys')}>
                <span className="grow">Keys</span> <Key>?</Key>
              </DropdownMenu.Item>
              <DropdownMenu.Item className={ITEM} asChild>
                <Link to={`/study/${study.id}/sheet`}>Sheet on paper, or typed in</Link>
              </DropdownMenu.Item>
              <DropdownMenu.Item className={ITEM} asChild>
                <Link to={`/study/${study.id}/wall`} target="_blank" rel="noreferrer">
                  The lesson on the wall
                </Link>
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
        <Link to={`/study/${study.id}/trials`} className="btn btn-plain md:hidden">
          All trials
        </Link>
      </div>
    </>
  )
}
