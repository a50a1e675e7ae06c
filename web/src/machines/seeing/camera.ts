import { type Grey, greyOf } from './grey'

/** The width in which pictures are looked at: finer costs more than it tells. */
export const LOOKED_WIDE = 480

/** Whether this browser tells of every picture when it was taken; without it a clip is the way. */
export const tellsEveryPicture = (): boolean => 'requestVideoFrameCallback' in HTMLVideoElement.prototype

/** The tablet's own camera in a video element. Gives how it is closed. Throws an Error whose message can be shown. */
export async function openCamera(video: HTMLVideoElement): Promise<() => void> {
  if (!('mediaDevices' in navigator)) throw new Error('The camera needs this page on this machine or on https. A clip of the trial can still be opened.')
  let stream: MediaStream
  try {
    stream = await navigator.mediaDevices.getUserMedia({
      video: { facingMode: 'environment', frameRate: { ideal: 60 }, width: { ideal: 1280 } },
      audio: false,
    })
  } catch (why) {
    const named = why instanceof DOMException && why.name === 'NotAllowedError' ? 'The browser does not let this page see' : 'The camera could not be opened'
    throw new Error(`${named}. Allow it in the browser, or open a clip of the trial.`)
  }
  const stop = () => {
    for (const t of stream.getTracks()) t.stop()
    video.srcObject = null
  }
  video.srcObject = stream
  await video.play().catch(() => undefined) // a page that is left while it begins
  return stop
}

/** A made clip in the place of the camera, over and over. */
export async function openMade(video: HTMLVideoElement, name: string): Promise<() => void> {
  video.src = `/api/made/${name}`
  await video.play().catch(() => undefined) // as above
  return () => {
    video.pause()
    video.removeAttribute('src')
    video.load()
  }
}

/** Keep the screen awake; gives how it may sleep again. Where the device does not offer it, the screen sleeps as it is set. */
export function stayAwake(): () => void {
  let over = false
  let lock: WakeLockSentinel | null = null
  void navigator.wakeLock
    ?.request('screen')
    .then((got) => {
      lock = got
      if (over) void got.release()
    })
    .catch(() => undefined) // low battery or a hidden page: nothing is lost by it
  return () => {
    over = true
    void lock?.release()
  }
}

/** One picture: when it was taken, in s of the pictures' own clock, and when that was by the page's clock, in ms. again: whether the film began anew. */
export type Shot = { t: number; at: number; grey: Grey; again: boolean }

/** Hear of every picture of a video until it is stopped. */
export function everyPicture(video: HTMLVideoElement, hear: (shot: Shot) => void): () => void {
  const canvas = document.createElement('canvas')
  const pen = canvas.getContext('2d', { willReadFrequently: true })
  let over = false
  let grey: Grey | undefined
  let last = Number.NEGATIVE_INFINITY
  let shown = -1
  /** Some browsers give a camera's pictures no time of their own: then it is when each was shown, for all of them alike. */
  let asShown = false
  const look = (now: number, told: VideoFrameCallbackMetadata) => {
    if (over) return
    ask = video.requestVideoFrameCallback(look)
    if (!pen || !video.videoWidth) return
    const own = told.captureTime === undefined || video.srcObject === null ? told.mediaTime : told.captureTime / 1000
    const other = told.presentedFrames !== shown
    shown = told.presentedFrames
    if (own === last && other && video.srcObject !== null) asShown = true
    const t = asShown ? now / 1000 : own
    if (t === last) return // the same picture again
    const again = t < last
    last = t
    const wide = Math.min(LOOKED_WIDE, video.videoWidth)
    const high = Math.round((wide * video.videoHeight) / video.videoWidth)
    if (canvas.width !== wide || canvas.height !== high) {
      canvas.width = wide
      canvas.height = high
    }
    pen.drawImage(video, 0, 0, wide, high)
    grey = greyOf(pen.getImageData(0, 0, wide, high), grey)
    hear({ t, at: told.captureTime ?? now, grey, again })
  }
  let ask = video.requestVideoFrameCallback(look)
  return () => {
    over = true
    video.cancelVideoFrameCallback(ask)
  }
}
