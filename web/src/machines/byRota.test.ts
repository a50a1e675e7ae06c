import { expect, it } from 'vitest'
import type { Turn } from '../data/api'
import { byRota } from './byRota'

const turn = (position: number, group: string, block: number): Turn => ({ position, block, level: group, group, lane: 1, heat: 0 })
const turns = ['a', 'b', 'c', 'd', 'c', 'a', 'd', 'b'].map((g, i) => turn(i + 1, g, i < 4 ? 1 : 2))
const test = (group: string, start: number, lane: number) => ({ group, what: 'test', start, lane })
const rota = [test('a', 10, 1), test('b', 10, 2), test('c', 14, 1), test('d', 14, 2), test('a', 18, 1), test('b', 18, 2), test('c', 22, 1), test('d', 22, 2)]

it('calls on each lane the groups that the rota puts there, in its order', () => {
  const called = byRota(turns, turns, rota)
  const on = (lane: number) => called.filter((t) => t.lane === lane).map((t) => t.group)
  expect(on(1)).toEqual(['a', 'c', 'a', 'c'])
  expect(on(2)).toEqual(['b', 'd', 'b', 'd'])
})

it('goes on where trials were kept, and leaves turns alone without a rota or where one does not seat everyone', () => {
  expect(byRota(turns.slice(4), turns, rota).map((t) => t.group)).toEqual(['a', 'b', 'c', 'd'])
  expect(byRota(turns, turns, undefined)).toEqual(turns)
  expect(byRota(turns, turns, rota.slice(0, 3))).toEqual(turns)
})
