import { beforeEach, describe, expect, it } from 'vitest'
import { local } from '../data/keep'
import { DeviceClock, nextOfTablet } from './deviceClock'

const YEAR = 365 * 86_400_000
const SERVER = Date.parse('2026-05-04T10:00:00Z')

describe('the device’s clock beside the server’s', () => {
  beforeEach(() => {
    for (const key of ['clock', 'tablet', 'tablet-number']) local.set(key, null)
  })
  const set = (ahead: number) => {
    const at = { wall: SERVER + ahead, steady: 1_000 }
    const clock = new DeviceClock(
      () => at.wall,
      () => at.steady,
    )
    const pass = (ms: number) => {
      at.wall += ms
      at.steady += ms
    }
    return { at, clock, pass }
  }

  it('knows nothing before the first answer, and takes nearly alike for alike', () => {
    const { clock } = set(0)
    expect(clock.aheadMs()).toBeNull()
    clock.heard(SERVER - 700, 200) // whole seconds of the server
    expect(clock.aheadMs()).toBe(0)
    clock.heard(Number.NaN, 10)
    expect(clock.aheadMs()).toBe(0)
  })

  it('tells a clock a year ahead, and what the server’s time is', () => {
    const { clock, pass } = set(YEAR)
    clock.heard(SERVER, 0)
    pass(60_000)
    expect(Math.abs((clock.aheadMs() ?? 0) - YEAR)).toBeLessThan(1_000)
    expect(Math.abs(clock.serverNow() - (SERVER + 60_000))).toBeLessThan(1_000)
  })

  it('notices offline that the clock was put right', () => {
    const { clock, at, pass } = set(YEAR)
    clock.heard(SERVER, 0)
    pass(60_000)
    at.wall -= YEAR
    expect(Math.abs(clock.aheadMs() ?? 9e9)).toBeLessThan(1_000)
    expect(Math.abs(clock.serverNow() - (SERVER + 60_000))).toBeLessThan(1_000)
  })

  it('does not take a sleeping tablet for a clock that was set', () => {
    const { clock, at } = set(0)
    clock.heard(SERVER, 0)
    at.wall += 40 * 60_000 // the steady clock stands still meanwhile
    expect(clock.aheadMs()).toBe(0)
  })

  it('knows after a reload what an earlier visit measured', () => {
    set(YEAR).clock.heard(SERVER, 0)
    expect(Math.abs((set(YEAR).clock.aheadMs() ?? 0) - YEAR)).toBeLessThan(1_000)
  })

  it('counts its trials, whatever the clock says', () => {
    const [one, two] = [nextOfTablet(), nextOfTablet()]
    expect(one.tablet).toBe(two.tablet)
    expect([one.tablet_number, two.tablet_number]).toEqual([1, 2])
  })
})
