import { ALL_FORMATS, BlobSource, CanvasSink, EncodedPacketSink, Input } from 'mediabunny'
import { frameAt, inOrder } from './frames'

/** A clip opened frame by frame. It never leaves this device. */
export type Clip = {
  /** When each frame is shown, in seconds. */
  times: number[]
  /** Draw one frame; false when it could not be had. */
  draw: (frame: number, canvas: HTMLCanvasElement) => Promise<boolean>
  /** Every frame from one on, in order, much quicker than one by one. */
  walk: (from: number, canvas: HTMLCanvasElement) => AsyncGenerator<number>
  close: () => void
  /** Whether every frame has its own time; else the pictures are found by seeking, at the rate that is typed. */
  exact: boolean
}

/** More frames than this are more than a trial: a long film is cut first. */
const MOST_FRAMES = 60_000
const WIDTH = 960

/** Open a video. Throws an Error whose message can be shown. rate: typed, for where the browser cannot read single frames. */
export async function openClip(file: Blob, rate: number): Promise<Clip> {
  if (file.size === 0) throw new Error('The file is empty. Choose the video again.')
  return 'VideoDecoder' in globalThis ? decoded(file) : sought(file, rate)
}

async function decoded(file: Blob): Promise<Clip> {
  const input = new Input({ source: new BlobSource(file), formats: ALL_FORMATS })
  const track = await input.getPrimaryVideoTrack().catch(() => null)
  if (!track) throw new Error('This is no video that can be read. MP4 and WebM files can.')
  if (!(await track.canDecode())) throw new Error('This browser cannot show the pictures of this video. Save it as MP4 (H.264) or WebM.')
  const stamps: number[] = []
  for await (const packet of new EncodedPacketSink(track).packets(undefined, undefined, { metadataOnly: true })) {
    stamps.push(packet.timestamp)
    if (stamps.length > MOST_FRAMES) throw new Error(`The video has more than ${MOST_FRAMES} frames. Cut it down to the trial first.`)
  }
  const times = inOrder(stamps)
  if (times.length < 2) throw new Error('The video has a single picture. Choose one that shows the release and the landing.')
  const sink = new CanvasSink(track, { width: Math.min(WIDTH, await widthOf(track)), poolSize: 2 })
  return {
    times,
    exact: true,
    async draw(frame, canvas) {
      const found = await sink.getCanvas((times[frame] ?? 0) + 1e-6)
      if (!found) return false
      canvas.width = found.canvas.width
      canvas.height = found.canvas.height
      canvas.getContext('2d')?.drawImage(found.canvas, 0, 0)
      return true
    },
    async *walk(from, canvas) {
      const pen = canvas.getContext('2d', { willReadFrequently: true })
      for await (const found of sink.canvases(times[from] ?? 0)) {
        if (!pen) return
        if (canvas.width !== found.canvas.width || canvas.height !== found.canvas.height) {
          canvas.width = found.canvas.width
          canvas.height = found.canvas.height
        }
        pen.drawImage(found.canvas, 0, 0)
        yield frameAt(times, found.timestamp + 1e-6)
      }
    },
    close: () => input.dispose(),
  }
}
const widthOf = async (track: { displayWidth?: number; getDisplayWidth?: () => Promise<number> }): Promise<number> =>
  track.getDisplayWidth ? await track.getDisplayWidth() : (track.displayWidth ?? WIDTH)

/** Without single frames (a page that is neither on this machine nor on https): the browser's own player, stepped by the typed rate. */
async function sought(file: Blob, rate: number): Promise<Clip> {
  const video = document.createElement('video')
  video.muted = true
  video.src = URL.createObjectURL(file)
  await new Promise<void>((done, fail) => {
    video.onloadedmetadata = () => done()
    video.onerror = () => fail(new Error('This is no video that this browser can show. MP4 and WebM files can.'))
  })
  const times = Array.from({ length: Math.max(2, Math.min(MOST_FRAMES, Math.floor(video.duration * rate))) }, (_, i) => i / rate)
  // there is one player: whoever wants a picture waits for the one before
  let turn: Promise<unknown> = Promise.resolve()
  const draw = (frame: number, canvas: HTMLCanvasElement): Promise<boolean> => {
    const mine = turn.then(() => seek(frame, canvas))
    turn = mine
    return mine
  }
  const seek = async (frame: number, canvas: HTMLCanvasElement): Promise<boolean> => {
    await new Promise<void>((done) => {
      video.addEventListener('seeked', () => done(), { once: true })
      video.currentTime = (times[frame] ?? 0) + 0.5 / rate
    })
    canvas.width = video.videoWidth
    canvas.height = video.videoHeight
    canvas.getContext('2d')?.drawImage(video, 0, 0)
    return true
  }
  return {
    times,
    exact: false,
    draw,
    async *walk(from, canvas) {
      for (let frame = from; frame < times.length; frame += 1) {
        await draw(frame, canvas)
        yield frame
      }
    },
    close: () => URL.revokeObjectURL(video.src),
  }
}
