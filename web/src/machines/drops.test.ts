import { describe, expect, it } from 'vitest'
import cases from '../../../tests/drift/drop_cases.json'
import { nextRung, over } from './drops'

type Case = { says: string; rungs: number[]; drops: [number, boolean][]; next: number | null; over: boolean }

describe('the next rung, as core/measuring/drops.py has it', () => {
  it.each(cases as Case[])('$says', (c) => {
    const drops = c.drops.map(([height, survived]) => ({ height, survived }))
    expect(nextRung(drops, c.rungs)).toBe(c.next)
    expect(over(drops, c.rungs)).toBe(c.over)
  })
})
