/** Times from the pictures of a video. Everything here is plain numbers; opening and decoding are done in video.ts. */

/** When each frame is shown, in seconds, in the order in which they are shown (packets of a file come in decoding order). */
export const inOrder = (timestamps: readonly number[]): number[] => [...new Set(timestamps)].sort((a, b) => a - b)

/** Pictures a second where they come evenly, to a hundredth; null where the file has a variable rate. */
export function evenRate(times: readonly number[]): number | null {
  if (times.length < 3) return null
  const gaps = times.slice(1).map((t, i) => t - (times[i] ?? 0))
  const mean = ((times.at(-1) ?? 0) - (times[0] ?? 0)) / gaps.length
  // a file writes its times in whole thousandths or finer: that much is no change of rate
  if (mean <= 0 || gaps.some((g) => Math.abs(g - mean) > Math.max(0.0011, mean * 0.02))) return null
  return Math.round(100 / mean) / 100
}

/** The last frame shown at or before a time. */
export function frameAt(times: readonly number[], at: number): number {
  let low = 0
  let high = times.length - 1
  while (low < high) {
    const mid = Math.ceil((low + high) / 2)
    if ((times[mid] ?? 0) <= at + 1e-9) low = mid
    else high = mid - 1
  }
  return low
}

/** The time between two marked frames as a reading is written: frames at a rate where the rate is even or was typed (a slowed-down
 *  clip says 30 and was taken at 240), else seconds with half the spacing of the frames at the marks as its doubt. */
export function between(times: readonly number[], from: number, to: number, typedRate: number | null): string | null {
  if (to <= from || from < 0 || to >= times.length) return null
  const rate = typedRate ?? evenRate(times)
  if (rate !== null) return `${to - from} frames @ ${rate} fps`
  const gap = Math.max(...[from, to].map((i) => (i > 0 ? (times[i] ?? 0) - (times[i - 1] ?? 0) : (times[1] ?? 0) - (times[0] ?? 0))))
  return `${((times[to] ?? 0) - (times[from] ?? 0)).toFixed(3)} ± ${(gap / 2).toFixed(3)}`
}
