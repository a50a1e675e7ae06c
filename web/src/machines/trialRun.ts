import type { Question } from '../data/api'

/** The run of one trial, or of those that are let go together: one machine for the teacher's lane, the heat, the group's phone and the timer's
 *  phone. It knows no page and no clock: times are the events' own stamps in milliseconds.
 *
 *  turn: a turn is called, nothing is in hand. entry: something is written for it. timing: it was let go and falls. timed: all that was let go
 *  is down. asked: a question stands before it is kept. What is kept, voided or handed on is out of hand: the next turn is called. */
export type RunState = 'turn' | 'entry' | 'timing' | 'timed' | 'asked'
export type RunEvent = 'write' | 'release' | 'mark' | 'land' | 'out' | 'back' | 'ask' | 'keep' | 'void' | 'clear'

export type RunNow = {
  readonly state: RunState
  /** When it was let go. */
  readonly from: number | null
  /** Which are let go together; one is lane 1. */
  readonly lanes: readonly number[]
  /** By lane: since the release. */
  readonly landed: Readonly<Record<number, number>>
  /** By lane: what went wrong with one that was let go with the others. */
  readonly outs: Readonly<Record<number, string>>
  /** Passed between the release and the landing. */
  readonly marks: readonly number[]
  /** What is written, as one text: a question is about this and no other. */
  readonly content: string
  readonly questions: readonly Question[]
}

/** Where each event leads in each state. What does not stand here changes nothing. Why it is so: `trialRun.why.ts`. */
export const TABLE: Readonly<Record<RunState, Partial<Record<RunEvent, readonly RunState[]>>>> = {
  turn: { write: ['turn', 'entry'], release: ['timing'], void: ['turn'], clear: ['turn'] },
  entry: { write: ['turn', 'entry'], release: ['timing'], ask: ['asked'], keep: ['turn'], void: ['turn'], clear: ['turn'] },
  timing: {
    write: ['timing'],
    mark: ['timing'],
    land: ['timing', 'timed'],
    out: ['timing', 'timed'],
    back: ['timing', 'turn'],
    void: ['turn'],
    clear: ['turn'],
  },
  timed: { write: ['timed'], out: ['timed'], back: ['timing', 'turn'], ask: ['asked'], keep: ['turn'], void: ['turn'], clear: ['turn'] },
  asked: {
    write: ['asked', 'entry', 'timed', 'turn'],
    out: ['asked'],
    back: ['timing', 'turn'],
    ask: ['asked'],
    keep: ['turn'],
    void: ['turn'],
    clear: ['turn'],
  },
}

/** A finger that bounces lands nothing. */
export const BOUNCE_MS = 60
export const MOST_MARKS = 10
const EMPTY: RunNow = { state: 'turn', from: null, lanes: [1], landed: {}, outs: {}, marks: [], content: '', questions: [] }

export class TrialRun {
  #now: RunNow = EMPTY
  #heard = new Set<() => void>()

  subscribe = (hear: () => void): (() => void) => {
    this.#heard.add(hear)
    return () => this.#heard.delete(hear)
  }
  get snapshot(): RunNow {
    return this.#now
  }

  /** What is written now, '' for nothing. */
  write(content: string): boolean {
    const now = this.#now
    if (content === now.content && now.state !== 'turn') return true
    const rest: RunState = now.state === 'asked' ? (this.#down ? 'timed' : content ? 'entry' : 'turn') : now.state
    const to: RunState = rest === 'turn' || rest === 'entry' ? (content ? 'entry' : 'turn') : rest
    return this.#go('write', to, { content, questions: [] })
  }

  /** at: the event's stamp. lanes: all that are let go together. */
  release(at: number, lanes: readonly number[] = [1]): boolean {
    return lanes.length > 0 && this.#go('release', 'timing', { from: at, lanes: [...lanes], landed: {}, outs: {}, marks: [], questions: [] })
  }

  mark(at: number): boolean {
    const { marks } = this.#now
    return marks.length < MOST_MARKS && this.#go('mark', 'timing', { marks: [...marks, at] })
  }

  /** A lane is down. */
  land(at: number, lane = 1): boolean {
    const { from, landed, lanes, outs } = this.#now
    if (from === null || outs[lane] !== undefined || !lanes.includes(lane) || landed[lane] !== undefined || at - from < BOUNCE_MS) return false
    const all = { ...landed, [lane]: at - from }
    return this.#go('land', isDown(lanes, all, outs) ? 'timed' : 'timing', { landed: all })
  }

  /** One of those let go together is void. */
  out(lane: number, fault: string): boolean {
    const { landed, lanes, outs, state } = this.#now
    const all = { ...outs, [lane]: fault }
    return lanes.includes(lane) && this.#go('out', state === 'timing' && isDown(lanes, landed, all) ? 'timed' : state, { outs: all })
  }

  /** Let go, or land: one target for both. */
  press(at: number): boolean {
    return this.#now.state === 'timing' ? this.land(at) : this.release(at)
  }

  /** The last landing is taken back; where nothing has landed, the release. */
  back(): boolean {
    const { landed } = this.#now
    const last = Object.entries(landed).sort((a, b) => b[1] - a[1])[0]
    if (!last) return this.#go('back', 'turn', EMPTY)
    return this.#go('back', 'timing', { landed: Object.fromEntries(Object.entries(landed).filter(([l]) => l !== last[0])), outs: {}, questions: [] })
  }

  /** A question stands about what is written. */
  ask(questions: readonly Question[]): boolean {
    return questions.length > 0 && this.#go('ask', 'asked', { questions })
  }

  keep(): boolean {
    return this.#go('keep', 'turn', EMPTY)
  }
  /** The trial is void. */
  fail(): boolean {
    return this.#go('void', 'turn', EMPTY)
  }
  clear(): boolean {
    return this.#go('clear', 'turn', EMPTY)
  }

  /** Go on with what was timed before, as when a page was loaded anew. */
  resume(from: number, lanes: readonly number[], landed: Readonly<Record<number, number>> = {}, marks: readonly number[] = []): void {
    if (this.release(from, lanes)) this.#set({ ...this.#now, landed, marks, state: isDown(lanes, landed, {}) ? 'timed' : 'timing' })
  }

  get #down(): boolean {
    const { from, lanes, landed, outs } = this.#now
    return from !== null && isDown(lanes, landed, outs)
  }

  /** By the table, or not at all. */
  #go(event: RunEvent, to: RunState, part: Partial<RunNow>): boolean {
    if (!TABLE[this.#now.state][event]?.includes(to)) return false
    if (part === EMPTY && this.#now === EMPTY) return true
    this.#set(part === EMPTY ? EMPTY : { ...this.#now, ...part, state: to })
    return true
  }

  #set(now: RunNow): void {
    this.#now = now
    for (const hear of this.#heard) hear()
  }
}

type ByLane<T> = Readonly<Record<number, T>>
const isDown = (lanes: readonly number[], landed: ByLane<number>, outs: ByLane<string>): boolean =>
  lanes.every((l) => landed[l] !== undefined || outs[l] !== undefined)

/** Of the one target: ready to let go, running, or ended. */
export const phaseOf = (now: RunNow): 'ready' | 'running' | 'ended' => (now.from === null ? 'ready' : now.state === 'timing' ? 'running' : 'ended')

/** Milliseconds as a reading in seconds to 0.01 s, the step that a thumb can claim. */
export const inSeconds = (ms: number): string => (ms / 1000).toFixed(2)

/** Places by order of landing: 1 for the first; times that read the same share a place, written "2=". ms: by lane. */
export function placesOf(landed: Readonly<Record<number, number>>): Record<number, string> {
  const read = (ms: number) => Math.round(ms / 10) // to the hundredth that is written down
  const times = Object.values(landed).map(read)
  return Object.fromEntries(
    Object.entries(landed).map(([lane, at]) => {
      const ms = read(at)
      const before = times.filter((t) => t < ms).length
      return [lane, `${before + 1}${times.filter((t) => t === ms).length > 1 ? '=' : ''}`]
    }),
  )
}
