import { describe, expect, it } from 'vitest'
import { place, SHAPES, shapeOf, strip, type TapeMark } from './geometry'

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
    for (const [i, a] of placed.entries())
      for (const b of placed.slice(i + 1)) expect(a.lift !== b.lift || Math.abs(a.x - b.x) >= 18.4).toBe(true)
    expect(placed.at(-1)?.lift).toBe(0)
  })

  it('keep their shapes apart', () => {
    const outlines = SHAPES.map((shape) => shape(10))
    expect(new Set(outlines).size).toBe(SHAPES.length)
    for (const outline of outlines) expect(outline).not.toMatch(/NaN|undefined/)
    expect(shapeOf(SHAPES.length)).toBe(shapeOf(0))
  })
})
