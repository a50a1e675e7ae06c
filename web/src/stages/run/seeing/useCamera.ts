import { type RefObject, useCallback, useEffect, useRef, useState } from 'react'
import { everyPicture, openCamera, openMade, type Shot, stayAwake, tellsEveryPicture } from '../../../machines/seeing/camera'

export type Camera = {
  video: RefObject<HTMLVideoElement | null>
  /** What is seen: nothing, the tablet's camera, or a made clip by its name. */
  source: '' | 'camera' | string
  says: string
  busy: boolean
  open: (made?: string) => void
  close: () => void
}

/** The camera of this tablet, or a made clip in its place, and every picture of it told. Closed when the page is left. */
export function useCamera(hear: (shot: Shot) => void): Camera {
  const video = useRef<HTMLVideoElement>(null)
  const [source, setSource] = useState('')
  const [says, setSays] = useState('')
  const [busy, setBusy] = useState(false)
  const stops = useRef<(() => void)[]>([])
  const heard = useRef(hear)
  heard.current = hear
  const close = useCallback(() => {
    for (const stop of stops.current.splice(0)) stop()
    setSource('')
  }, [])
  useEffect(() => close, [close])
  const open = useCallback(
    (made = '') => {
      const into = video.current
      if (!into) return
      close()
      if (!tellsEveryPicture())
        return setSays('This browser does not tell of single pictures of its camera. Take a clip and follow it, or time it by its frames.')
      setBusy(true)
      setSays('')
      void (made ? openMade(into, made) : openCamera(into))
        .then((stop) => {
          stops.current.push(
            stop,
            stayAwake(),
            everyPicture(into, (shot) => heard.current(shot)),
          )
          setSource(made || 'camera')
        })
        .catch((why: unknown) => setSays(why instanceof Error ? why.message : String(why)))
        .finally(() => setBusy(false))
    },
    [close],
  )
  return { video, source, says, busy, open, close }
}
