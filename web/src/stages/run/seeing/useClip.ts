import { type RefObject, useEffect, useRef, useState } from 'react'
import type { Clip } from '../../../machines/video'

/** A clip that was chosen, opened, and one of its pictures drawn into a canvas. rate: typed, where the browser cannot read single frames; onOpened: a
 *  stable function. */
export function useClip(
  file: Blob | null,
  rate: number,
  at: number,
  onSays: (says: string) => void,
  onOpened: () => void,
): { clip: Clip | null; busy: boolean; canvas: RefObject<HTMLCanvasElement | null> } {
  const [clip, setClip] = useState<Clip | null>(null)
  const [busy, setBusy] = useState(false)
  const canvas = useRef<HTMLCanvasElement>(null)
  // a typed rate changes only what a reading is called, except where the browser seeks by it
  const rateNow = useRef(rate)
  rateNow.current = rate
  const says = useRef(onSays)
  says.current = onSays

  useEffect(() => {
    if (!file) return
    let live = true
    let opened: Clip | null = null
    setBusy(true)
    says.current('')
    void import('../../../machines/video')
      .then(({ openClip }) => openClip(file, rateNow.current))
      .then((found) => {
        if (!live) return found.close()
        opened = found
        setClip(found)
        onOpened()
      })
      .catch((why: unknown) => live && says.current(why instanceof Error ? why.message : String(why)))
      .finally(() => live && setBusy(false))
    return () => {
      live = false
      opened?.close()
    }
  }, [file, onOpened])

  // one picture after the other, and the one that is wanted last stays: a picture that took long never lies over a newer one
  const wanted = useRef<{ clip: Clip | null; at: number; drawing: boolean }>({ clip, at, drawing: false })
  useEffect(() => {
    const want = wanted.current
    want.clip = clip
    want.at = at
    const draw = async () => {
      want.drawing = true
      let done: { clip: Clip | null; at: number } = { clip: null, at: -1 }
      while (want.clip && canvas.current && (done.clip !== want.clip || done.at !== want.at)) {
        done = { clip: want.clip, at: want.at }
        const ok = await want.clip.draw(want.at, canvas.current).catch(() => false)
        if (done.clip === want.clip) says.current(ok ? '' : 'This picture could not be read. Step on to the next.')
      }
      want.drawing = false
    }
    if (clip && !want.drawing) void draw()
  }, [clip, at])
  return { clip, busy, canvas }
}
