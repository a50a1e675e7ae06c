import { useCallback, useEffect, useRef, useState } from 'react'
import type { Followed, ToFollow } from '../../../machines/seeing/follow.worker'
import type { Clip } from '../../../machines/video'

export type Place = { frame: number; x: number; y: number }
/** state: nothing followed, on its way, lost at a picture (touch it again there), or followed to the end or until it was stopped. */
export type Following = {
  state: 'none' | 'going' | 'lost' | 'done'
  at: number
  places: readonly Place[]
  missed: number
  size: { wide: number; high: number }
}
const NOTHING: Following = { state: 'none', at: 0, places: [], missed: 0, size: { wide: 960, high: 540 } }
/** So many pictures are on their way to the worker at once. */
const AHEAD = 4
const SHOWN_EVERY = 6

/** A thing followed through a clip, in a worker: the pictures never leave this device. */
export function useFollow(clip: Clip | null): {
  now: Following
  follow: (frame: number, touched: { x: number; y: number; size: number }) => void
  stop: () => void
  clear: () => void
} {
  const [now, setNow] = useState<Following>(NOTHING)
  const going = useRef(0)
  const worker = useRef<Worker | null>(null)
  // biome-ignore lint/correctness/useExhaustiveDependencies: another clip is another track
  useEffect(() => {
    setNow(NOTHING)
    const runs = going
    return () => {
      runs.current += 1
      worker.current?.terminate()
      worker.current = null
    }
  }, [clip])
  const stop = useCallback(() => {
    going.current += 1
    setNow((n) => (n.state === 'going' ? { ...n, state: 'done' } : n))
  }, [])
  const clear = useCallback(() => {
    going.current += 1
    setNow(NOTHING)
  }, [])
  const follow = useCallback(
    (frame: number, touched: { x: number; y: number; size: number }) => {
      if (!clip) return
      going.current += 1
      const run = going.current
      worker.current ??= new Worker(new URL('../../../machines/seeing/follow.worker.ts', import.meta.url), { type: 'module' })
      const work = worker.current
      const canvas = document.createElement('canvas')
      const waits = new Map<number, (f: Followed) => void>()
      work.onmessage = (e: MessageEvent<Followed>) => {
        waits.get(e.data.frame)?.(e.data)
        waits.delete(e.data.frame)
      }
      const ask = (n: number, first: boolean): Promise<Followed> =>
        new Promise((done) => {
          const pen = canvas.getContext('2d', { willReadFrequently: true })
          const pixels = pen?.getImageData(0, 0, canvas.width, canvas.height).data.buffer
          if (!pixels) return
          waits.set(n, done)
          const message: ToFollow = { frame: n, pixels, wide: canvas.width, high: canvas.height, ...(first ? { touched } : {}) }
          work.postMessage(message, [pixels])
        })
      setNow((n) => ({ ...n, state: 'going', at: frame, places: n.places.filter((p) => p.frame < frame) }))
      void (async () => {
        const pending: Promise<Followed>[] = []
        let fresh: Place[] = []
        let over: 'lost' | null = null
        const settle = async (): Promise<void> => {
          const got = await pending.shift()
          if (!got || over) return
          if (got.lost) over = 'lost'
          else fresh.push({ frame: got.frame, x: got.x, y: got.y })
          if (over || fresh.length >= SHOWN_EVERY) show(got.frame)
        }
        const show = (at: number) => {
          const add = fresh
          fresh = []
          if (run !== going.current) return
          setNow((n) => ({
            ...n,
            at,
            state: over ?? n.state,
            places: [...n.places, ...add],
            missed: n.missed + (over ? 1 : 0),
            size: { wide: canvas.width, high: canvas.height },
          }))
        }
        let first = true
        for await (const n of clip.walk(frame, canvas)) {
          if (run !== going.current || over) break
          if (n < frame) continue
          pending.push(ask(n, first))
          first = false
          if (pending.length >= AHEAD) await settle()
        }
        while (pending.length && run === going.current && !over) await settle()
        if (run !== going.current || over) return
        show(clip.times.length - 1)
        setNow((n) => ({ ...n, state: 'done' }))
      })().catch(() => {
        // a clip that is closed while it is followed has nothing more to tell; one that breaks off is lost at that picture
        if (run === going.current) setNow((n) => ({ ...n, state: 'lost' }))
      })
    },
    [clip],
  )
  return { now, follow, stop, clear }
}
