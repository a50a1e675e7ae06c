import { describe, expect, it } from 'vitest'
import { Heat, placesOf } from './heat'

describe('a heat', () => {
  it('times every landing from the one release, by the stamps alone', () => {
    const heat = new Heat()
    heat.land(1, 50, [1, 2, 3])
    expect(heat.snapshot.state).toBe('ready')
    heat.release(1000)
    heat.release(1400)
    heat.land(2, 2360, [1, 2, 3])
    heat.land(2, 2999, [1, 2, 3])
    heat.land(4, 2500, [1, 2, 3])
    heat.land(1, 2590, [1, 2, 3])
    expect(heat.snapshot).toEqual({ state: 'falling', from: 1000, landed: { 1: 1590, 2: 1360 } })
    heat.land(3, 2705, [1, 2, 3])
    expect(heat.snapshot.state).toBe('down')
  })
  it('takes the last landing back, then the release', () => {
    const heat = new Heat()
    heat.release(0)
    heat.land(1, 900, [1, 2])
    heat.land(2, 800, [1, 2])
    heat.back()
    expect(heat.snapshot).toEqual({ state: 'falling', from: 0, landed: { 2: 800 } })
    heat.back()
    heat.back()
    expect(heat.snapshot.state).toBe('ready')
  })
  it('does not hear the bounce of the key that let go', () => {
    const heat = new Heat()
    heat.release(100)
    heat.land(1, 120, [1])
    expect(heat.snapshot.state).toBe('falling')
  })
  it('gives shared places to equal times', () => {
    expect(placesOf({ 1: 900, 2: 800, 3: 902, 4: 1000 })).toEqual({ 1: '2=', 2: '1', 3: '2=', 4: '4' })
  })
})
