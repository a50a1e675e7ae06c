import { describe, expect, it } from 'vitest'
import cases from '../../../tests/drift/missing_cases.json'
import type { Draft, Question, ReadingGiven } from '../data/api'
import { missing } from './missing'
import { inSeconds, phaseOf, placesOf, type RunEvent, type RunState, TABLE, TrialRun } from './trialRun'
import { REFUSED, WHY } from './trialRun.why'

const question: Question = { doubt: 'line', says: 'Is the unit right?', offer: '' }
const EVENTS: Record<RunEvent, (run: TrialRun) => boolean> = {
  write: (r) => r.write('4.52'),
  release: (r) => r.release(1_000, [1, 2]),
  mark: (r) => r.mark(1_500),
  land: (r) => r.land(2_000, 1),
  out: (r) => r.out(2, 'caught the wall'),
  back: (r) => r.back(),
  ask: (r) => r.ask([question]),
  keep: (r) => r.keep(),
  void: (r) => r.fail(),
  clear: (r) => r.clear(),
}
const REACHED: Record<RunState, () => TrialRun> = {
  turn: () => new TrialRun(),
  entry: () => made((r) => r.write('4.5')),
  timing: () => made((r) => r.release(1_000, [1, 2])),
  timed: () =>
    made(
      (r) => r.release(1_000, [1, 2]),
      (r) => r.land(1_900, 2),
      (r) => r.land(1_950, 1),
    ),
  asked: () =>
    made(
      (r) => r.write('45'),
      (r) => r.ask([question]),
    ),
}
function made(...steps: ((run: TrialRun) => boolean)[]): TrialRun {
  const run = new TrialRun()
  for (const step of steps) expect(step(run)).toBe(true)
  return run
}

describe('the table of a trial’s run', () => {
  it('is what the machine does: every event in every state', () => {
    for (const state of Object.keys(REACHED) as RunState[]) {
      for (const event of Object.keys(EVENTS) as RunEvent[]) {
        const run = REACHED[state]()
        const before = run.snapshot
        expect(before.state).toBe(state)
        const done = EVENTS[event](run)
        const rule = TABLE[state][event]
        if (done) expect(rule, `${event} in ${state}`).toContain(run.snapshot.state)
        else expect(run.snapshot, `${event} in ${state}`).toBe(before) // nothing is half done
        if (!rule) expect(done, `${event} in ${state}`).toBe(false)
      }
    }
  })
  it('gives a reason for each way, and for what is refused', () => {
    for (const [state, ways] of Object.entries(TABLE)) expect(Object.keys(WHY[state as RunState]).sort(), state).toEqual(Object.keys(ways).sort())
    for (const [state, ways] of Object.entries(REFUSED))
      for (const event of Object.keys(ways)) expect(TABLE[state as RunState][event as RunEvent], `${event} in ${state}`).toBeUndefined()
  })
  it('never leaves a state in which nothing can be done', () => {
    for (const ways of Object.values(TABLE)) expect(ways.clear).toBeDefined()
  })
})

describe('one trial', () => {
  it('runs on the stamps of the events, whenever they are handled', () => {
    const run = new TrialRun()
    expect(phaseOf(run.snapshot)).toBe('ready')
    run.press(1_000)
    expect(phaseOf(run.snapshot)).toBe('running')
    run.mark(1_400)
    run.press(2_345.6)
    expect(run.snapshot.landed[1]).toBeCloseTo(1_345.6)
    expect(run.snapshot.marks).toEqual([1_400])
    expect(phaseOf(run.snapshot)).toBe('ended')
    expect(run.press(9_000)).toBe(false)
  })
  it('takes a bounce of the finger for no landing', () => {
    const run = made((r) => r.press(0))
    expect(run.press(59)).toBe(false)
    expect(run.press(500)).toBe(true)
  })
  it('drops a question when another reading is written, and keeps it for the same', () => {
    const run = REACHED.asked()
    run.write('45')
    expect(run.snapshot.state).toBe('asked')
    run.write('4.5')
    expect(run.snapshot).toMatchObject({ state: 'entry', questions: [] })
    run.write('')
    expect(run.snapshot.state).toBe('turn')
  })
  it('goes on with what was timed before the page was loaded anew', () => {
    const run = new TrialRun()
    run.resume(100, [1, 2, 3], { 2: 900 })
    expect(run.snapshot).toMatchObject({ state: 'timing', from: 100, landed: { 2: 900 } })
    run.land(1_100, 1)
    run.out(3, 'tangled')
    expect(run.snapshot.state).toBe('timed')
  })
  it('tells its listeners once for each change', () => {
    const run = new TrialRun()
    let heard = 0
    const leave = run.subscribe(() => heard++)
    run.press(0)
    run.clear()
    run.clear()
    expect(heard).toBe(2)
    leave()
    run.press(0)
    expect(heard).toBe(2)
  })
  it('claims no more than a thumb can', () => {
    expect([inSeconds(1234.567), inSeconds(995)]).toEqual(['1.23', '0.99'])
  })
})

describe('a heat', () => {
  it('times every landing from the one release, by the stamps alone', () => {
    const run = new TrialRun()
    expect(run.land(50, 1)).toBe(false)
    run.release(1000, [1, 2, 3])
    expect(run.release(1400, [1, 2, 3])).toBe(false)
    run.land(2360, 2)
    expect(run.land(2999, 2)).toBe(false)
    expect(run.land(2500, 4)).toBe(false)
    run.land(2590, 1)
    expect(run.snapshot).toMatchObject({ state: 'timing', from: 1000, landed: { 1: 1590, 2: 1360 } })
    run.land(2705, 3)
    expect(run.snapshot.state).toBe('timed')
  })
  it('takes the last landing back, then the release', () => {
    const run = made(
      (r) => r.release(0, [1, 2]),
      (r) => r.land(900, 1),
      (r) => r.land(800, 2),
    )
    run.back()
    expect(run.snapshot).toMatchObject({ state: 'timing', from: 0, landed: { 2: 800 } })
    run.back()
    run.back()
    expect(run.snapshot.state).toBe('turn')
  })
  it('gives shared places to equal times', () => {
    expect(placesOf({ 1: 900, 2: 800, 3: 902, 4: 1000 })).toEqual({ 1: '2=', 2: '1', 3: '2=', 4: '4' })
  })
})

describe('what is missing, as the server has it too', () => {
  it.each(cases)('$says, with $written written', ({ measure, payloads, written, says }) => {
    const draft = { measures: [measure], payloads } as unknown as Draft
    const readings = written.map((payload) => ({ measure: 'm1', payload, texts: ['x'] }) as unknown as ReadingGiven)
    expect(missing(draft, readings)).toBe(says)
  })
})
