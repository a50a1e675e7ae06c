import { describe, expect, it } from 'vitest'
import type { Turn as Whole } from '../data/api'
import { clockAt, minutesOf, minutesSince } from './clock'
import cases from '../../../tests/drift/turn_cases.json'
import { countFilled, countKept, plainNumber, remaining, type SeenTrial } from './turns'

type Turn = Omit<Whole, 'lane' | 'heat' | 'sitting'> & { sitting?: number }
const turn = (position: number, block: number, level: string): Turn => ({ position, block, level, group: '' })
const seen = (block: number, level: string, state: 'kept' | 'void'): SeenTrial => ({ block, level, state }) as SeenTrial
const names = (turns: Turn[]) => turns.map((t) => `${t.block}${t.level}`)

type Case = { name: string; turns: Turn[]; trials: { block: number; level: string; state: string; outside?: string }[]; left: string[]; counts: number[] }

describe('the rule that the server has too', () => {
  it.each(cases as Case[])('$name', ({ turns, trials, left, counts }) => {
    const inPlan = (t: { block: number; level: string }) => turns.some((x) => x.block === t.block && x.level === t.level)
    const made = trials
      .filter((t) => t.state !== 'withdrawn')
      .map((t) => ({ ...t, place: t.outside || !inPlan(t) ? 'outside' : 'turn' }) as unknown as SeenTrial)
    expect(remaining(turns, made).map((t) => `${t.block}:${t.level}`)).toEqual(left)
    expect(countFilled(turns, made)).toBe(counts[0])
  })
})

describe('what remains to be run', () => {
  const blocks = [turn(1, 1, 'a'), turn(2, 1, 'b'), turn(3, 1, 'c'), turn(4, 2, 'c'), turn(5, 2, 'a'), turn(6, 2, 'b')]

  it('is the planned order without what is kept', () => {
    expect(names(remaining(blocks, []))).toEqual(['1a', '1b', '1c', '2c', '2a', '2b'])
    expect(names(remaining(blocks, [seen(1, 'a', 'kept')]))).toEqual(['1b', '1c', '2c', '2a', '2b'])
  })

  it('brings a void trial again at the end of its own block', () => {
    expect(names(remaining(blocks, [seen(1, 'a', 'void')]))).toEqual(['1b', '1c', '1a', '2c', '2a', '2b'])
    expect(names(remaining(blocks, [seen(1, 'a', 'void'), seen(1, 'b', 'void'), seen(1, 'a', 'void')]))).toEqual(['1c', '1b', '1a', '2c', '2a', '2b'])
  })

  it('does not bring one again that was kept after it was void', () => {
    expect(names(remaining(blocks, [seen(1, 'a', 'void'), seen(1, 'a', 'kept')]))).toEqual(['1b', '1c', '2c', '2a', '2b'])
  })

  it('leaves an order that is not in blocks as it is, void ones last', () => {
    const listed = [turn(1, 1, 'a'), turn(2, 2, 'a'), turn(3, 1, 'b'), turn(4, 2, 'b')]
    expect(names(remaining(listed, [seen(1, 'a', 'void')]))).toEqual(['2a', '1b', '2b', '1a'])
  })

  it('counts what is kept, in all and at a level', () => {
    const trials = [seen(1, 'a', 'kept'), seen(1, 'b', 'void'), seen(1, 'b', 'kept')]
    expect([countKept(trials), countKept(trials, 'b'), countKept(trials, 'c')]).toEqual([2, 1, 0])
  })
})

describe('a plain number is drawn before the server has read it', () => {
  it.each([
    ['4.52', 4.52],
    ['4,52', 4.52],
    [' 7 ', 7],
    ['0', 0],
    ['−3', -3],
    ['-3', -3],
    ['0,350', 0.35],
    // two things or none: not drawn
    ['1,250', null],
    ['4 m', null],
    ['~4', null],
    ['>=3.8', null],
    ['', null],
    ['.', null],
    ['1.2.3', null],
    ['1e3', null],
  ])('%s', (text, value) => {
    expect(plainNumber(text)).toBe(value)
  })
  it('nothing at all', () => {
    expect(plainNumber(undefined)).toBeNull()
  })
})

describe('the clock of a lesson', () => {
  it('adds minutes, past the hour and past midnight', () => {
    expect(clockAt('09:10', 0)).toBe('09:10')
    expect(clockAt('09:50', 15)).toBe('10:05')
    expect(clockAt('23:50', 20)).toBe('00:10')
    expect(minutesOf('9.05')).toBe(545)
  })
  it('knows how far the lesson has come', () => {
    expect(minutesSince('09:10', new Date(2026, 4, 4, 9, 12, 30))).toBe(2.5)
    expect(minutesSince('09:10', new Date(2026, 4, 4, 9, 0, 0))).toBe(-10)
  })
})
