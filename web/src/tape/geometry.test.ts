import { describe, expect, it } from 'vitest'
import { inLines, place, SHAPES, shapeOf, strip, type TapeMark } from './geometry'

const mark = (value: number): TapeMark => ({ id: String(value) + Math.random(), value, kind: 'exact' })

describe('the stretch of tape', () => {
  it('begins at the start line when the marks reach down the tape', () => {
    const s = strip([1.2, 4.5], 600)
    expect([s.from, s.broken]).toEqual([0, false])
    expect(s.to).toBeGreaterThan(4.5)
    expect(s.x(0)).toBe(0)
  })

  it('is broken, and says so, when the start line would squeeze the marks together', () => {
    const s = strip([40.1, 40.3, 40.2], 600)
    expect(s.broken).toBe(true)
    expect(s.from).toBeGreaterThan(30)
    expect(s.x(40.3) - s.x(40.1)).toBeGreaterThan(300)
  })

  it('holds every value, below zero too, and never folds', () => {
    for (const values of [[-12, 5], [0], [3], [1e-6, 2e-6], [5, 5, 5], [-4]]) {
      const s = strip(values, 500)
      for (const v of values) {
        expect(s.x(v)).toBeGreaterThanOrEqual(0)
        expect(s.x(v)).toBeLessThanOrEqual(500)
      }
      expect(s.to).toBeGreaterThan(s.from)
    }
  })

  it('has ticks at honest steps and labels that tell them apart', () => {
    const s = strip([0.42, 0.48, 0.45], 600)
    const labels = s.major.map(s.label)
    expect(new Set(labels).size).toBe(labels.length)
    const steps = s.major.slice(1).map((v, i) => v - (s.major[i] ?? 0))
    for (const step of steps) expect(step).toBeCloseTo(steps[0] ?? 0, 9)
    expect(strip([-3, 3], 600).label(-2)).toBe('−2')
  })

  it('has no tick finer than the tool reads, and does not make one step look like much', () => {
    const s = strip([1.25, 1.25, 1.28], 660, 8, 0.01)
    const ticks = [...s.major, ...s.minor].sort((a, b) => a - b)
    for (const [i, v] of ticks.slice(1).entries()) expect(v - (ticks[i] ?? 0)).toBeGreaterThan(0.0099)
    expect(s.to - s.from).toBeGreaterThanOrEqual(0.1)
    expect(s.x(1.28) - s.x(1.25)).toBeLessThan(660 * 0.3)
    // one reading only, and a tool coarser than the reading is large
    for (const [values, step] of [
      [[1.25], 0.01],
      [[0.3], 1],
      [[0], 0.1],
      [[-2, 2], 1],
    ] as const) {
      const t = strip(values, 300, 8, step)
      for (const v of values) expect(t.x(v)).toBeGreaterThanOrEqual(0)
      for (const [i, v] of t.major.slice(1).entries()) expect(v - (t.major[i] ?? 0)).toBeGreaterThan(step * 0.998)
    }
    // where the marks lie far apart the step changes nothing
    expect(strip([1, 5], 600, 8, 0.01)).toMatchObject({ from: strip([1, 5], 600).from, to: strip([1, 5], 600).to })
  })

  it('stands empty without marks', () => {
    expect(strip([], 300)).toMatchObject({ from: 0, to: 1, broken: false })
  })
})

describe('marks on the tape', () => {
  it('stand where they were read', () => {
    const s = strip([1, 2], 400)
    for (const m of place([mark(1), mark(2)], s.x, 20)) expect(m.x).toBe(s.x(m.value))
  })

  it('are lifted so that none hides another', () => {
    const s = strip([2, 2.001, 2.002, 4], 400)
    const placed = place([mark(2), mark(2), mark(2.001), mark(2.002), mark(4)], s.x, 20)
    for (const [i, a] of placed.entries()) for (const b of placed.slice(i + 1)) expect(a.lift !== b.lift || Math.abs(a.x - b.x) >= 18.4).toBe(true)
    expect(placed.at(-1)?.lift).toBe(0)
  })

  it('are lifted as if each had been held against every other, however many share a place', () => {
    const s = strip([0, 10], 400)
    const many = Array.from({ length: 300 }, (_, n) => mark((n * 7) % 31 === 0 ? 5 : ((n * 13) % 40) / 4))
    const taken: { x: number; lift: number }[] = []
    const slowly = [...many]
      .sort((a, b) => a.value - b.value)
      .map((m) => {
        let lift = 0
        while (taken.some((t) => t.lift === lift && Math.abs(t.x - s.x(m.value)) < 18.4)) lift += 1
        taken.push({ x: s.x(m.value), lift })
        return lift
      })
    expect(place(many, s.x, 20).map((m) => m.lift)).toEqual(slowly)
  })

  it('keep their shapes apart', () => {
    const outlines = SHAPES.map((shape) => shape(10))
    expect(new Set(outlines).size).toBe(SHAPES.length)
    for (const outline of outlines) expect(outline).not.toMatch(/NaN|undefined/)
    expect(shapeOf(SHAPES.length)).toBe(shapeOf(0))
  })
})

describe('a name in lines', () => {
  it.each([
    ['felt', 10, 3, ['felt']],
    ['a rather long name of kind 7', 12, 3, ['a rather', 'long name of', 'kind 7']],
    ['a rather long name of kind 7', 12, 2, ['a rather', 'long name o…']],
    ['sandpaperedsurface', 8, 3, ['sandpap…']],
  ])('%s', (label, letters, most, rows) => {
    expect(inLines(label, letters, most)).toEqual(rows)
  })
})
