import { describe, expect, it } from 'vitest'
import { Follower } from './follow'
import { chance, pictureOf, type Scene } from './scenes'

const STILL: Scene = { wide: 200, high: 160, where: () => ({ x: 0, y: 0 }), half: { x: 8, y: 8 }, light: 30, open: 0, noise: 2, lamp: () => 1, pattern: 8 }

const ways: { name: string; fps: number; where: (t: number) => { x: number; y: number }; open?: number; noise?: number; lamp?: (t: number) => number }[] = [
  { name: 'a fall', fps: 30, where: (t) => ({ x: 60, y: 14 + 110 * t * t }) },
  { name: 'a fall, 240 a second', fps: 240, where: (t) => ({ x: 60, y: 14 + 110 * t * t }) },
  { name: 'a throw', fps: 30, where: (t) => ({ x: 14 + 120 * t, y: 130 - 220 * t + 160 * t * t }) },
  { name: 'a roll that slows down', fps: 24, where: (t) => ({ x: 14 + 140 * t - 50 * t * t, y: 90 }) },
  { name: 'a turn', fps: 60, where: (t) => ({ x: 100 + 45 * Math.cos(9 * t), y: 80 + 45 * Math.sin(9 * t) }) },
  { name: 'smeared and noisy', fps: 30, where: (t) => ({ x: 14 + 120 * t, y: 80 }), open: 0.5, noise: 6 },
  { name: 'in flickering light', fps: 30, where: (t) => ({ x: 14 + 120 * t, y: 80 }), lamp: (t) => 1 + 0.1 * Math.sin(630 * t) },
]

describe('a thing that is followed, against ways made by formula', () => {
  for (const way of ways)
    it(way.name, () => {
      const luck = chance(9)
      const scene: Scene = { ...STILL, where: way.where, open: (way.open ?? 0) / way.fps, noise: way.noise ?? 2, lamp: way.lamp ?? (() => 1) }
      const middle = (t: number) => way.where(t + scene.open / 2)
      const follower = new Follower(pictureOf(scene, 0, luck), middle(0).x, middle(0).y, 20)
      const off: number[] = []
      for (let n = 1; n / way.fps < 1; n += 1) {
        const t = n / way.fps
        const found = follower.step(pictureOf(scene, t, luck))
        expect(found.lost).toBe(false)
        off.push(Math.hypot(found.x - middle(t).x, found.y - middle(t).y))
      }
      off.sort((a, b) => a - b)
      expect(off[Math.floor(off.length / 2)] ?? 9).toBeLessThan(0.3)
      expect(off.at(-1) ?? 9).toBeLessThan(1)
    }, 60_000)
  it('tells when it is lost', () => {
    const luck = chance(2)
    const gone: Scene = { ...STILL, where: (t) => (t < 0.3 ? { x: 60 + 50 * t, y: 80 } : { x: -90, y: 80 }) }
    const follower = new Follower(pictureOf(gone, 0, luck), 60, 80, 20)
    const found = Array.from({ length: 15 }, (_, n) => follower.step(pictureOf(gone, (n + 1) / 30, luck)))
    expect(found[4]?.lost).toBe(false)
    expect(found[12]?.lost).toBe(true)
  })
})
