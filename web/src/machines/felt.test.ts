import { describe, expect, it } from 'vitest'
import { Feeling, KEPT_S } from './felt'

describe('what a phone feels', () => {
  it('knows a drop that has ended with a blow, and its real rate', () => {
    const f = new Feeling()
    for (let n = 0; n < 240; n += 1) {
      const t = n / 60
      const a = t < 1 ? 9.8 : t < 1.5 ? 0.1 : t < 1.55 ? 80 : 9.8
      f.take(t, 0, a, 0)
      if (t < 3) expect(f.landed).toBe(false)
    }
    expect(f.landed).toBe(true)
    expect(f.rate).toBeCloseTo(60, 3)
    expect(f.log.t.length).toBe(240)
  })
  it('takes a knock without a fall for none, leaves out what comes twice, and keeps the newest seconds', () => {
    const f = new Feeling()
    for (let n = 0; n < 60 * (KEPT_S + 5); n += 1) f.take(n / 60, 0, n === 300 ? 90 : 9.8, 0)
    f.take(3, 0, 0, 0)
    expect(f.landed).toBe(false)
    const { t } = f.log
    expect((t.at(-1) ?? 0) - (t[0] ?? 0)).toBeLessThanOrEqual(KEPT_S)
    f.clear()
    expect(f.rate).toBe(0)
  })
})
