import { describe, expect, it } from 'vitest'
import type { Grey } from './grey'
import { chance, pictureOf, type Scene } from './scenes'
import { Watch } from './watch'

const [WIDE, HIGH] = [240, 96]
const START = 0.3
const END = 0.7
const START_LINE = { x0: START, y0: 0.1, x1: START, y1: 0.9 }
const END_LINE = { x0: END, y0: 0.1, x1: END, y1: 0.9 }
const STILL: Scene = {
  wide: WIDE,
  high: HIGH,
  where: () => ({ x: -100, y: 50 }),
  half: { x: 16, y: 18 },
  light: 40,
  open: 0,
  noise: 2,
  lamp: () => 1,
  pattern: 10,
}

type Run = { off: number; u: number; gap: number; between: boolean }

/** When the front (half a length ahead of the middle) is at a point across the picture: found by halving. */
function passes(x: (t: number) => number, at: number, from: number, to: number): number {
  let [low, high] = [from, to]
  for (let i = 0; i < 60; i += 1) {
    const mid = (low + high) / 2
    if (x(mid) < at) low = mid
    else high = mid
  }
  return (low + high) / 2
}

/** A made run between two gates, and by how much the time that is found is off. */
function run(scene: Scene, x: (t: number) => number, times: readonly number[], seed: number): Run | null {
  const luck = chance(seed)
  const watch = new Watch([
    { role: { start: true }, line: START_LINE },
    { role: { start: false, lane: 0 }, line: END_LINE },
  ])
  let from: { t: number; u: number; between: boolean } | null = null
  let to: { t: number; u: number; between: boolean } | null = null
  for (const t of times)
    for (const p of watch.take(t, pictureOf(scene, t, luck)).passed) {
      if (p.role.start) from ??= p
      else if (from) to ??= p
    }
  if (!from || !to) return null
  const end = times.at(-1) ?? 0
  const front = (at: number) => passes((t) => x(t) + scene.half.x, at * (WIDE - 1), 0, end + 1)
  const gaps = times.slice(1).map((t, i) => t - (times[i] ?? 0))
  const gap = gaps.reduce((a, b) => a + b, 0) / gaps.length
  return { off: to.t - from.t - (front(END) - front(START)), u: Math.hypot(from.u, to.u), gap, between: from.between && to.between }
}

const CASES = [
  { name: 'constant speed', fps: 30, slow: 0, curve: 0 },
  { name: 'constant speed', fps: 24, slow: 0, curve: 0 },
  { name: 'constant speed', fps: 60, slow: 0, curve: 0 },
  { name: 'slowing down', fps: 30, slow: 0.35, curve: 0 },
  { name: 'falling faster', fps: 30, slow: -0.8, curve: 0 },
  { name: 'falling faster, 240 pictures a second', fps: 240, slow: -0.8, curve: 0 },
  { name: 'uneven pictures', fps: 30, slow: 0, curve: 0, uneven: 0.35 },
  { name: 'smeared', fps: 30, slow: 0, curve: 0, open: 0.6 },
  { name: 'noise', fps: 30, slow: 0, curve: 0, noise: 6 },
  { name: 'flickering light', fps: 30, slow: 0, curve: 0, flicker: 0.08 },
  { name: 'on a slope', fps: 30, slow: 0, curve: 18 },
]

describe('the camera as a gate, against runs made by formula', () => {
  const all: (Run & { name: string })[] = []
  for (const c of CASES) {
    it(`finds the time: ${c.name}, ${c.fps} a second`, () => {
      const found: Run[] = []
      for (let n = 0; n < 8; n += 1) {
        const luck = chance(1000 + n * 17 + c.fps)
        // pixels a second: a slow and a fast thing, and where the first picture falls
        const v0 = (c.fps === 240 ? 160 : c.fps * 2.2) * (1 + 2.2 * luck())
        const a = (-c.slow * v0 * v0) / (WIDE * 1.6)
        const begin = (10 + luck()) / c.fps
        const x = (t: number) => -20 + (t < begin ? 0 : v0 * (t - begin) + (a / 2) * (t - begin) ** 2)
        const last = begin + passes((t) => v0 * t + (a / 2) * t * t, WIDE + 30, 0, 6)
        const times: number[] = []
        for (let t = 0; t < last + 4 / c.fps; t += (1 + (c.uneven ?? 0) * (2 * luck() - 1)) / c.fps) times.push(t)
        const scene: Scene = {
          ...STILL,
          where: (t) => ({ x: x(t), y: 48 + (c.curve * (x(t) - WIDE / 2)) / WIDE }),
          open: (c.open ?? 0) / c.fps,
          noise: c.noise ?? 2,
          lamp: (t) => 1 + (c.flicker ?? 0) * Math.sin(2 * Math.PI * 100 * t * 0.993),
          light: luck() < 0.5 ? 40 : 235,
        }
        const one = run(scene, x, times, n)
        if (one) found.push(one)
      }
      expect(found.length).toBe(8)
      all.push(...found.map((f) => ({ ...f, name: c.name })))
      const off = found.map((f) => Math.abs(f.off) / f.gap).sort((a, b) => a - b)
      expect(off[3] ?? 9).toBeLessThan(0.2)
      expect(off[7] ?? 9).toBeLessThan(1)
    }, 120_000)
  }
  it('is far within a fifth of a picture in the middle and a whole one in 99 of 100, and its doubt covers', () => {
    const off = all.map((f) => Math.abs(f.off) / f.gap).sort((a, b) => a - b)
    const covered = all.filter((f) => Math.abs(f.off) <= 2 * f.u).length / all.length
    expect(all.length).toBe(CASES.length * 8)
    expect(off[Math.floor(off.length / 2)] ?? 9).toBeLessThan(0.05)
    expect(off[Math.ceil(off.length * 0.99) - 1] ?? 9).toBeLessThan(0.4)
    expect(covered).toBeGreaterThan(0.95)
  })
})

const still = (t: number, luck: () => number, more: Partial<Scene> = {}): Grey => pictureOf({ ...STILL, ...more }, t, luck)

describe('what is wrong with a picture', () => {
  const lines = [{ role: { start: true } as const, line: START_LINE }]
  it('says that the light flickers, and times nothing by it', () => {
    const [watch, luck] = [new Watch(lines), chance(3)]
    const told = Array.from({ length: 60 }, (_, n) => watch.take(n / 30, still(n / 30, luck, { lamp: () => 1 + 0.1 * (n % 2) })))
    expect(told.at(-1)?.troubles).toContain('light')
    expect(told.flatMap((f) => f.passed)).toEqual([])
  })
  it('says nothing of a scene that stays as it is', () => {
    const [watch, luck] = [new Watch(lines), chance(3)]
    const told = Array.from({ length: 60 }, (_, n) => watch.take(n / 30, still(n / 30, luck)))
    expect(told.flatMap((f) => [...f.troubles, ...f.passed])).toEqual([])
    expect(told.at(-1)?.learned).toBe(true)
  })
  it('says that the tablet was moved, times nothing by it, and learns the scene anew', () => {
    const [watch, luck] = [new Watch(lines), chance(4)]
    const moved = (n: number): Grey => {
      const g = still(n / 30, luck)
      return n < 30 ? g : { ...g, values: g.values.map((_, i, all) => 255 - (all[(i + 40) % all.length] ?? 0)) }
    }
    const told = Array.from({ length: 70 }, (_, n) => watch.take(n / 30, moved(n)))
    expect(told[30]?.troubles).toContain('moved')
    expect(told.flatMap((f) => f.passed)).toEqual([])
    expect(told.at(-1)?.troubles).toEqual([])
    expect(told.at(-1)?.learned).toBe(true)
  })
  it('says that a hand shakes the tablet, and times nothing by it', () => {
    const [watch, luck] = [new Watch(lines), chance(8)]
    const shaken = (n: number): Grey => {
      const g = still(n / 30, luck, { pattern: 25 })
      const [dx, dy] = n < 30 ? [0, 0] : [Math.round(2 * Math.sin(n)), Math.round(2 * Math.cos(1.7 * n))]
      return { ...g, values: g.values.map((_, i, all) => all[(i + dy * WIDE + dx + all.length) % all.length] ?? 0) }
    }
    const told = Array.from({ length: 60 }, (_, n) => watch.take(n / 30, shaken(n)))
    expect(told.slice(0, 30).flatMap((f) => f.troubles)).toEqual([])
    expect(told.slice(30).filter((f) => f.troubles.includes('moved')).length).toBeGreaterThan(15)
    expect(told.flatMap((f) => f.passed)).toEqual([])
  })
  it('takes a thing that goes through for no shake', () => {
    const [watch, luck] = [new Watch(lines), chance(9)]
    const told = Array.from({ length: 70 }, (_, n) => {
      const x = -20 + Math.max(0, n / 30 - 0.4) * 150
      return watch.take(n / 30, pictureOf({ ...STILL, pattern: 25, where: () => ({ x, y: 50 }) }, n / 30, luck))
    })
    expect(told.flatMap((f) => f.troubles)).not.toContain('moved')
    expect(told.flatMap((f) => f.passed).length).toBe(1)
  })
  it('says that pictures were left out', () => {
    const [watch, luck] = [new Watch(lines), chance(5)]
    const times = Array.from({ length: 40 }, (_, n) => (n < 30 ? n : n + 3) / 30)
    const told = times.map((t) => watch.take(t, still(t, luck)))
    expect(told[30]?.troubles).toContain('slow')
    expect(told[29]?.troubles).toEqual([])
  })
  it('says that two things crossed together', () => {
    const [watch, luck] = [new Watch(lines), chance(6)]
    const two = (t: number): Grey => {
      const x = -20 + Math.max(0, t - 0.4) * 110
      const a = pictureOf({ ...STILL, where: () => ({ x, y: 40 }), half: { x: 8, y: 14 } }, t, luck)
      const b = pictureOf({ ...STILL, noise: 0, where: () => ({ x: x - 40, y: 40 }), half: { x: 8, y: 14 } }, t, luck)
      return { ...a, values: a.values.map((v, i) => Math.min(v, b.values[i] ?? 0)) }
    }
    const told = Array.from({ length: 70 }, (_, n) => watch.take(n / 30, two(n / 30)))
    expect(told.some((f) => f.troubles.includes('two'))).toBe(true)
  })
  it('says that a shadow went over the line, where the ground has a pattern', () => {
    const [watch, luck] = [new Watch(lines), chance(7)]
    const told = Array.from({ length: 70 }, (_, n) => {
      const t = n / 30
      const g = still(t, luck, { pattern: 25, noise: 1 })
      const x = -30 + Math.max(0, t - 0.4) * 100
      return watch.take(t, {
        ...g,
        values: g.values.map((v, i) => (Math.abs((i % WIDE) - x) < 22 && Math.floor(i / WIDE) > 20 && Math.floor(i / WIDE) < 80 ? v * 0.6 : v)),
      })
    })
    expect(told.some((f) => f.troubles.includes('shadow'))).toBe(true)
  })
})
