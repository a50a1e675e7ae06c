/** How light a picture is, point by point (0 to 255), row after row. Everything that is found in pictures begins here; nothing of it leaves the device. */
export type Grey = { wide: number; high: number; values: Float32Array }

/** From the bytes of a canvas (red, green, blue, opacity). The weights are those of ITU-R BT.601. into: an earlier one of the same size, to be written over. */
export function greyOf(pixels: { data: Uint8ClampedArray; width: number; height: number }, into?: Grey): Grey {
  const { data, width: wide, height: high } = pixels
  const values = into && into.values.length === wide * high ? into.values : new Float32Array(wide * high)
  for (let i = 0, p = 0; i < values.length; i += 1, p += 4) values[i] = 0.299 * (data[p] ?? 0) + 0.587 * (data[p + 1] ?? 0) + 0.114 * (data[p + 2] ?? 0)
  return { wide, high, values }
}

/** The lightness between four points, and that of the edge beyond it. */
export function at(grey: Grey, x: number, y: number): number {
  const { wide, high, values } = grey
  const px = Math.min(Math.max(x, 0), wide - 1.001)
  const py = Math.min(Math.max(y, 0), high - 1.001)
  const left = Math.floor(px)
  const top = Math.floor(py)
  const i = top * wide + left
  const [fx, fy] = [px - left, py - top]
  const above = (values[i] ?? 0) * (1 - fx) + (values[i + 1] ?? 0) * fx
  const below = (values[i + wide] ?? 0) * (1 - fx) + (values[i + wide + 1] ?? 0) * fx
  return above * (1 - fy) + below * fy
}

/** The middle one of some numbers (which are put in order); 0 of none. */
export function middle(values: Float32Array | number[]): number {
  if (!values.length) return 0
  values.sort((a: number, b: number) => a - b)
  const half = values.length >> 1
  return values.length % 2 ? (values[half] ?? 0) : ((values[half - 1] ?? 0) + (values[half] ?? 0)) / 2
}
