import { describe, expect, it } from 'vitest'
import { between, evenRate, frameAt, inOrder } from './frames'

const even = Array.from({ length: 90 }, (_, i) => i / 30)

describe('frames', () => {
  it('puts packets that come in decoding order into the order in which they are shown', () => {
    expect(inOrder([0, 0.1, 0.0333, 0.0667, 0.0333])).toEqual([0, 0.0333, 0.0667, 0.1])
  })
  it('knows an even rate, written in thousandths, and a variable one', () => {
    expect(evenRate(even)).toBe(30)
    expect(evenRate(even.map((t) => Math.round(t * 1000) / 1000))).toBeCloseTo(30, 1)
    expect(evenRate([0, 0.033, 0.1, 0.133, 0.2])).toBeNull()
    expect(evenRate([0, 0.03])).toBeNull()
  })
  it('finds the frame that is shown at a time', () => {
    expect(frameAt(even, 0)).toBe(0)
    expect(frameAt(even, 1)).toBe(30)
    expect(frameAt(even, 1.02)).toBe(30)
    expect(frameAt(even, 99)).toBe(89)
  })
  it('writes a reading that the parser knows', () => {
    expect(between(even, 10, 47, null)).toBe('37 frames @ 30 fps')
    expect(between(even, 10, 47, 240)).toBe('37 frames @ 240 fps')
    expect(between(even, 47, 10, null)).toBeNull()
    const uneven = [0, 0.02, 0.06, 0.1, 0.12]
    expect(between(uneven, 1, 3, null)).toBe('0.080 ± 0.020')
  })
})
