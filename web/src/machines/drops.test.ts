import { describe, expect, it } from 'vitest'
import cases from '../../../tests/drift/drop_cases.json'
import type { Study } from '../data/api'
import { dropsOf, nextRung, over } from './drops'
import type { SeenTrial } from './turns'

type Case = { says: string; rungs: number[]; drops: [number, boolean][]; next: number | null; over: boolean; every?: boolean }

describe('the next rung, as core/measuring/drops.py has it', () => {
  it.each(cases as Case[])('$says', (c) => {
    const drops = c.drops.map(([height, survived]) => ({ height, survived }))
    expect(nextRung(drops, c.rungs, c.every ?? false)).toBe(c.next)
    expect(over(drops, c.rungs, c.every ?? false)).toBe(c.over)
  })
})

describe('a specimen of several payloads', () => {
  const study = { draft: { measures: [{ id: 'm1', words: ['untouched', 'hairline', 'cracked'], survived: 2 }] } } as unknown as Study
  const drop = (...words: string[]) =>
    ({
      state: 'kept',
      practice: false,
      place: 'turn',
      block: 1,
      level: '0',
      rung: '1.6',
      readings: words.map((w) => ({ measure: 'm1', texts: [w] })),
    }) as unknown as SeenTrial
  it.each([
    [['untouched', 'hairline'], [{ height: 1.6, survived: true }]],
    [['untouched', 'cracked'], [{ height: 1.6, survived: false }]],
    [['untouched', 'melted'], []],
    [[], []],
  ])('%s', (words, drops) => {
    expect(dropsOf(study, [drop(...words)], { block: 1, level: '0' })).toEqual(drops)
  })
})
