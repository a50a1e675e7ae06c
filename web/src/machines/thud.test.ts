import { describe, expect, it } from 'vitest'
import { Thud } from './thud'

describe('a thud', () => {
  it('ends the time that a press began, once, whatever rings on', () => {
    const thud = new Thud()
    expect(thud.loud(1, false)).toBe(false)
    thud.release(2)
    expect(thud.loud(2.05, false)).toBe(false)
    expect(thud.loud(2.84, false)).toBe(true)
    expect(thud.loud(2.9, false)).toBe(false)
    expect(thud.snapshot).toEqual({ state: 'timed', from: 2, to: 2.84, heard: false })
  })
  it('can hear the release as well', () => {
    const thud = new Thud()
    thud.loud(5, true)
    thud.loud(5.1, true)
    expect(thud.loud(5.9, true)).toBe(true)
    expect(thud.snapshot).toEqual({ state: 'timed', from: 5, to: 5.9, heard: true })
    thud.clear()
    expect(thud.snapshot.state).toBe('quiet')
  })
})
