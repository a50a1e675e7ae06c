import type { RunEvent, RunState } from './trialRun'

type Said = Readonly<Record<RunState, Partial<Record<RunEvent, string>>>>
const NEXT = 'it is out of hand, and the next turn is called'

/** Why each way of the table of a trial's run is there: for whoever reads or changes it, and held to the table by the tests. */
export const WHY: Said = {
  turn: {
    write: 'something is written, or nothing any more',
    release: 'it is let go',
    void: NEXT,
    clear: NEXT,
  },
  entry: {
    write: 'something is written, or nothing any more',
    release: 'it is let go anew: what was written for it before is written over by the time',
    ask: 'something about it is to be looked at while the device lies on the floor',
    keep: NEXT,
    void: NEXT,
    clear: NEXT,
  },
  timing: {
    write: 'what else is asked of it may be written while it falls',
    mark: 'a mark is passed',
    land: 'a finger that lands something too early, or a lane that was not let go, lands nothing',
    out: 'one of those let go together is void; the others go on',
    back: 'the last landing was another lane’s; or it was not let go at all',
    void: NEXT,
    clear: NEXT,
  },
  timed: {
    write: 'the time stands, or is written over',
    out: 'one of those let go together is void',
    back: 'it falls again; or it was not let go at all',
    ask: 'something about it is to be looked at while the device lies on the floor',
    keep: NEXT,
    void: NEXT,
    clear: NEXT,
  },
  asked: {
    write: 'what was asked about is another reading now, or the same',
    out: 'one of those let go together is void',
    back: 'it falls again; or it was not let go at all',
    ask: 'another question, about another reading',
    keep: 'kept all the same, with the question',
    void: NEXT,
    clear: NEXT,
  },
}

/** Why something that somebody may try does not happen. */
export const REFUSED: Said = {
  turn: { keep: 'nothing is written yet', land: 'it was not let go', mark: 'it was not let go', back: 'nothing landed' },
  entry: { land: 'it was not let go', mark: 'it was not let go', back: 'nothing landed' },
  timing: { release: 'it falls already', keep: 'it still falls', ask: 'it still falls' },
  timed: { release: 'its time stands: keep it, void it, or take the landing back', land: 'all are down', mark: 'it is down' },
  asked: { release: 'a question stands', land: 'all are down', mark: 'it is down' },
}
