import { describe, expect, it } from 'vitest'
import { glued } from './glue'

describe('a number and its unit stay in one line', () => {
  it('holds every number to its unit', () => {
    expect(glued('5 in went 1 m farther than 3 in, by 0.8 m/s² to 12 %.')).toBe(
      '5\u00a0in went 1\u00a0m farther than 3\u00a0in, by 0.8\u00a0m/s² to 12\u00a0%.',
    )
    expect(glued('1.41 m/s; 2 cm² and 90 °, 0.3 kg·m/s')).toBe('1.41\u00a0m/s; 2\u00a0cm² and 90\u00a0°, 0.3\u00a0kg·m/s')
  })
  it('lets words go', () => {
    expect(glued('4 groups made 3 more trials; 2 minutes, 5 inside, 7 grooves')).toBe('4 groups made 3 more trials; 2 minutes, 5 inside, 7 grooves')
    expect(glued(null)).toBe('')
  })
})
