import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { nextRung, over } from './drops'

type Case = { says: string; rungs: number[]; drops: [number, boolean][]; next: number | null; over: boolean }
const cases = JSON.parse(readFileSync('../tests/drift/drop_cases.json', 'utf8')) as Case[]

describe('the next rung, as core/measuring/drops.py has it', () => {
  it.each(cases)('$says', (c) => {
    const drops = c.drops.map(([height, survived]) => ({ height, survived }))
    expect(nextRung(drops, c.rungs)).toBe(c.next)
    expect(over(drops, c.rungs)).toBe(c.over)
  })
})
