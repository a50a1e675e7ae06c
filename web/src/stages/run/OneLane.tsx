import type { Study, Turn } from '../../data/api'
import { labelOf, levelIndex } from '../../data/trials'
import { inSeconds } from '../../machines/trialRun'
import { Shape } from '../../parts/parts'
import { Elapsed } from './Elapsed'
import { Pressed } from './LaneButtons'

const RANKS = ['first', 'second', 'third', 'fourth', 'fifth', 'sixth']

/** One lane: its level, the time while it falls, and a target that is hard to miss. */
export function OneLane({
  study,
  turn,
  from,
  ms,
  fault,
  place,
  many,
  onLand,
  onFault,
}: {
  study: Study
  turn: Turn
  from: number | null
  ms: number | undefined
  fault: string | undefined
  place: string | undefined
  many: boolean
  onLand: (at: number) => void
  onFault: () => void
}) {
  const down = ms !== undefined
  const word = fault
    ? `void: ${fault}`
    : down
      ? (RANKS[Number.parseInt(place ?? '', 10) - 1] ?? '') + (place?.endsWith('=') ? ', together' : '')
      : from === null
        ? ''
        : 'still falling'
  return (
    <li
      className={`border-b border-hair py-2 ${many ? 'block' : 'grid grid-cols-[1fr_auto] items-center gap-x-4'} md:block md:border-b-0 md:border-l-2 md:px-6 md:py-3 md:first:border-l-0`}
      data-lane={turn.lane}
      data-called={labelOf(study, turn.level)}
    >
      <div>
        <p className="big m-0 flex flex-wrap items-center gap-3 text-[1.5rem] md:text-[2rem]">
          <Shape n={levelIndex(study, turn.level)} size={many ? 24 : 30} />
          {labelOf(study, turn.level)}
          <span className="ml-auto text-[1rem] font-normal text-quiet max-md:hidden" style={{ fontFamily: 'var(--font-text)' }}>
            lane {turn.lane}
            {turn.group ? ` · ${turn.group}` : ''}
          </span>
        </p>
        <div className={many ? 'max-md:flex max-md:items-center max-md:gap-2' : ''}>
          <p
            className={`big m-0 leading-none ${many ? 'text-[1.9rem] md:text-[3.6rem]' : 'text-[2.8rem] md:text-[5.6rem]'} ${down ? '' : 'text-quiet'}`}
            style={{ fontStretch: '70%' }}
          >
            {down ? inSeconds(ms) : from === null ? '0.00' : <Elapsed from={from} />} <span className="text-[0.35em] text-quiet">s</span>
          </p>
          <p className={`m-0 flex min-h-[44px] items-center justify-between gap-3 md:mt-1 md:text-[1.15rem] ${many ? 'max-md:grow' : 'mt-1'}`}>
            <span className={fault ? 'font-semibold text-doubt' : down ? 'font-bold' : `text-quiet ${many ? 'max-md:sr-only' : ''}`}>{word}</span>
            {from !== null && !fault ? (
              <button type="button" className="btn btn-plain min-h-[44px] px-0" aria-label={`Void the lane of ${labelOf(study, turn.level)}`} onClick={onFault}>
                Void
              </button>
            ) : null}
          </p>
        </div>
      </div>
      <div>
        <button
          type="button"
          data-press
          className={`btn min-h-[72px] ${many ? 'w-full' : 'w-[42vw]'} text-[1.5rem] md:min-h-[80px] md:w-full ${from !== null && !down && !fault ? 'bg-tape text-tape-ink' : 'border-hair text-quiet'}`}
          style={{ touchAction: 'manipulation' }}
          disabled={from === null || down || Boolean(fault)}
          onPointerDown={(e) => onLand(e.timeStamp)}
        >
          {down ? 'down' : 'Landed'} <span className="sr-only">{labelOf(study, turn.level)}</span> <Pressed>{turn.lane}</Pressed>
        </button>
      </div>
    </li>
  )
}
