import { useEffect, useRef, useState } from 'react'

const letGo = (recorder: MediaRecorder | null) => {
  for (const t of recorder?.stream.getTracks() ?? []) t.stop()
}

/** A clip taken with the tablet's own camera. */
export function TakeClip({ onClip, onSays }: { onClip: (clip: Blob) => void; onSays: (says: string) => void }) {
  const [recorder, setRecorder] = useState<MediaRecorder | null>(null)
  const preview = useRef<HTMLVideoElement>(null)
  useEffect(() => () => letGo(recorder), [recorder])
  useEffect(() => {
    if (recorder && preview.current) preview.current.srcObject = recorder.stream
  }, [recorder])
  if (!('mediaDevices' in navigator) || !('MediaRecorder' in globalThis))
    return <p className="m-0 max-w-[18rem] text-quiet">The camera needs this page on this machine or on https. A video file can still be opened.</p>
  const begin = async () => {
    try {
      const stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: 'environment', frameRate: { ideal: 120 } }, audio: false })
      const parts: Blob[] = []
      const made = new MediaRecorder(stream)
      made.ondataavailable = (e) => parts.push(e.data)
      made.onstop = () => {
        onClip(new Blob(parts, { type: made.mimeType }))
        setRecorder(null)
      }
      made.start()
      setRecorder(made)
    } catch {
      onSays('The camera could not be opened. Allow it in the browser, or choose a video file.')
    }
  }
  return recorder ? (
    <span className="flex items-center gap-3">
      <video ref={preview} autoPlay muted playsInline className="h-28" aria-label="The camera’s picture" />
      <button type="button" className="btn btn-act min-h-[64px]" onClick={() => recorder.stop()}>
        Stop the camera
      </button>
    </span>
  ) : (
    <button type="button" className="btn" onClick={() => void begin()}>
      Take a clip
    </button>
  )
}
