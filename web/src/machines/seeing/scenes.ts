import type { Grey } from './grey'

/** A small seeded source of chance, so that a made scene is the same again (mulberry32, in the public domain; from memory). */
export function chance(seed: number): () => number {
  let a = seed >>> 0
  return () => {
    a = (a + 0x6d2b79f5) >>> 0
    let t = Math.imul(a ^ (a >>> 15), 1 | a)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}
/** A normally scattered number of mean 0 and standard deviation 1 (Box and Muller 1958). */
export const normal = (luck: () => number): number => Math.sqrt(-2 * Math.log(1 - luck())) * Math.cos(2 * Math.PI * luck())

export type Scene = {
  wide: number
  high: number
  /** Where the middle of the thing is at a time in s, in points. */
  where: (t: number) => { x: number; y: number }
  /** Its half length and half height in points, and how light it is (0 to 255). */
  half: { x: number; y: number }
  light: number
  /** Shutter open for so long, s. */
  open: number
  /** Standard deviation of the noise of a point, steps of 256. */
  noise: number
  /** How bright the light is at a time, 1 as usual. */
  lamp: (t: number) => number
  /** How much the ground is patterned, steps of 256. */
  pattern: number
}

/** How much of a point an ellipse's bounding shape covers: a soft edge one point wide. */
const cover = (x: number, y: number, scene: Scene, cx: number, cy: number): number => {
  const dx = Math.abs(x - cx) / scene.half.x
  const dy = Math.abs(y - cy) / scene.half.y
  if (dx > 1.5 || dy > 1.5) return 0
  // a box with round corners: power 6
  const d = (dx ** 6 + dy ** 6) ** (1 / 6)
  return Math.min(1, Math.max(0, (1 - d) * Math.min(scene.half.x, scene.half.y) + 0.5))
}

const GRAINS = 1 << 14
let grains: Float32Array | null = null
/** Noise is drawn once and laid over each picture from another place on. */
const noiseOf = (): Float32Array => {
  const luck = chance(1)
  grains ??= Float32Array.from({ length: GRAINS }, () => normal(luck))
  return grains
}
const grounds = new Map<string, Float32Array>()
function groundOf({ wide, high, pattern }: Scene): Float32Array {
  const key = `${wide} ${high} ${pattern}`
  const known = grounds.get(key)
  if (known) return known
  const made = Float32Array.from({ length: wide * high }, (_, i) => {
    const [x, y] = [i % wide, Math.floor(i / wide)]
    return 150 + 30 * Math.sin(x * 0.021 + 1) + pattern * Math.sin(x * 0.9) * Math.cos(y * 0.7)
  })
  grounds.set(key, made)
  return made
}

/** The picture of a made scene at a time: the shutter opens then, and what moves is smeared over its time. */
export function pictureOf(scene: Scene, t: number, luck: () => number): Grey {
  const { wide, high } = scene
  const values = new Float32Array(wide * high)
  const grain = noiseOf()
  const empty = groundOf(scene)
  const begin = Math.floor(luck() * GRAINS)
  const parts = scene.open > 0 ? 6 : 1
  const lamp = scene.lamp(t)
  const places = Array.from({ length: parts }, (_, k) => scene.where(t + (scene.open * (k + 0.5)) / parts))
  for (let y = 0; y < high; y += 1)
    for (let x = 0; x < wide; x += 1) {
      const i = y * wide + x
      const ground = empty[i] ?? 0
      let share = 0
      for (const p of places) share += cover(x, y, scene, p.x, p.y)
      share /= parts
      const clean = (ground * (1 - share) + scene.light * share) * lamp
      values[i] = Math.min(255, Math.max(0, Math.round(clean + scene.noise * (grain[(begin + i * 7) & (GRAINS - 1)] ?? 0))))
    }
  return { wide, high, values }
}
