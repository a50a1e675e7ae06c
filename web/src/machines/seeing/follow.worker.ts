import { Follower, type Found } from './follow'
import { type Grey, greyOf } from './grey'

/** touched: where the thing is in this picture and how wide; without it the thing is looked for. */
export type ToFollow = { frame: number; pixels: ArrayBuffer; wide: number; high: number; touched?: { x: number; y: number; size: number } }
export type Followed = Found & { frame: number }

let follower: Follower | null = null
let grey: Grey | undefined

self.onmessage = (e: MessageEvent<ToFollow>) => {
  const { frame, pixels, wide, high, touched } = e.data
  grey = greyOf({ data: new Uint8ClampedArray(pixels), width: wide, height: high }, grey)
  if (touched) {
    follower = new Follower(grey, touched.x, touched.y, touched.size)
    self.postMessage({ frame, x: touched.x, y: touched.y, score: 1, lost: false } satisfies Followed)
  } else if (follower) self.postMessage({ frame, ...follower.step(grey) } satisfies Followed)
}
