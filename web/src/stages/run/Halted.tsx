import type { Study, Turn } from '../../data/api'
import type { Screen } from '../../data/screens'
import { labelOf, levelIndex } from '../../data/trials'
import { turnKey } from '../../machines/turns'
import { Shape } from '../../parts/parts'
import { Pressed } from './LaneButtons'
import type { Halt } from './useTurn'

const SAYS = { shut: 'closed', last: 'The last trial is in', elsewhere: 'Every turn is called' }

/** This lane calls nothing for now: it is shut, its last trial is in, or other screens call all that is left. */
export function Halted({
  study,
  how,
  lane,
  said,
  onLane,
  onUndo,
  called = [],
  elsewhere,
  onCall,
}: {
  study: Study
  how: Halt | 'elsewhere'
  lane: number
  said: string
  onLane: (lane: number) => void
  onUndo: () => void
  called?: readonly Turn[]
  elsewhere?: ReadonlyMap<string, Screen>
  onCall?: (turn: Turn) => void
}) {
  const lanes = Math.max(1, ...study.turns.map((t) => t.lane))
  const own = lane || (called[0]?.lane ?? study.turns[0]?.lane ?? 1)
  const shut = study.lanes.shut?.[String(own)]
  const open = Array.from({ length: lanes }, (_, i) => i + 1).filter((n) => !study.lanes.shut?.[String(n)])
  return (
    <section className="grid content-start gap-4 px-4 pt-8 md:px-8" data-halted={how}>
      <h1 className="m-0 text-[3.6rem] leading-none">{how === 'shut' ? `Lane ${own} is ${shut?.state === 'paused' ? 'paused' : SAYS.shut}` : SAYS[how]}</h1>
      <p className="m-0 text-[1.25rem]" role="status">
        {how === 'shut'
          ? shut?.why || 'The teacher opens it again; this screen notices by itself.'
          : how === 'last'
            ? 'The teacher has called the last trial of each lane. Make the lane safe and wait for the word.'
            : 'What is left is called at other lanes. When one of them is kept or let go, this screen goes on by itself.'}
      </p>
      {said ? <p className="m-0 text-quiet">{said}</p> : null}
      {how === 'elsewhere' ? (
        <ul className="m-0 grid list-none gap-0 border-t-2 border-ink p-0">
          {called.map((t) => (
            <li key={turnKey(t)} className="flex flex-wrap items-center gap-x-4 border-b border-hair py-2">
              <Shape n={levelIndex(study, t.level)} size={20} />
              <span className="big text-[1.4rem]">{[t.group, labelOf(study, t.level)].filter(Boolean).join(', ')}</span>
              <span className="grow text-quiet">at {elsewhere?.get(turnKey(t))?.label ?? 'another lane'}</span>
              <button type="button" className="btn btn-plain" onClick={() => onCall?.(t)}>
                Call it here all the same
              </button>
            </li>
          ))}
        </ul>
      ) : null}
      <div className="flex flex-wrap gap-3">
        {how === 'shut'
          ? open.map((n) => (
              <button key={n} type="button" className="btn min-h-[64px]" onClick={() => onLane(n)}>
                Go to lane {n}
              </button>
            ))
          : null}
        <button type="button" className="btn min-h-[64px]" onClick={onUndo}>
          Undo the last trial <Pressed>Z</Pressed>
        </button>
      </div>
    </section>
  )
}
