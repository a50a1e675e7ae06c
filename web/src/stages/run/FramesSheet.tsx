import { useCallback, useEffect, useRef, useState } from 'react'
import { between, evenRate } from '../../machines/frames'
import { handOver } from '../../machines/picture'
import { Sheet, Told } from '../../parts/parts'
import { useKeys } from '../../parts/useKeys'
import { ChooseClip } from './seeing/ChooseClip'
import { useClip } from './seeing/useClip'

/** second: the time between a second pair of marks, "" where there is none; stamps hold both pairs. called: how the trial is called. */
type Props = { open: boolean; onClose: () => void; called: string; onTake: (text: string, stamps: number[], second: string) => void }

/** A fall timed by the pictures of a video: stepped frame by frame, release and landing marked. */
export function FramesSheet({ open, onClose, called, onTake }: Props) {
  return (
    <Sheet open={open} onClose={onClose} title="Time it by frames" wide>
      {open ? <Stepper called={called} onTake={onTake} onClose={onClose} /> : null}
    </Sheet>
  )
}

/** Two marks: the pictures by number, their times, and the time between as it is written down. */
type Pair = { text: string; from: number; to: number; stamps: number[] }
/** Width in points of each of two pictures that are kept. */
const KEPT_WIDE = 640

/** Of a clip whose rate is not known otherwise. */
const USUAL_RATE = 30

function Stepper({ called, onTake, onClose }: Omit<Props, 'open'>) {
  const [file, setFile] = useState<Blob | null>(null)
  const [at, setAt] = useState(0)
  const [marks, setMarks] = useState<{ release: number | null; land: number | null }>({ release: null, land: null })
  const [first, setFirst] = useState<Pair | null>(null)
  const [rate, setRate] = useState('')
  const [says, setSays] = useState('')
  const slider = useRef<HTMLInputElement>(null)
  const begin = useCallback(() => {
    setAt(0)
    setMarks({ release: null, land: null })
    setFirst(null)
  }, [])
  const typedRate = Number(rate.replace(',', '.')) > 0 ? Number(rate.replace(',', '.')) : null

  const { clip, busy, canvas } = useClip(file, typedRate ?? USUAL_RATE, at, setSays, begin)

  useEffect(() => {
    if (clip) slider.current?.focus()
  }, [clip])

  const last = (clip?.times.length ?? 1) - 1
  const step = (by: number) => setAt((n) => Math.max(0, Math.min(last, n + by)))
  const mark = (which: 'release' | 'land') => setMarks((m) => ({ ...m, [which]: at }))
  const text = clip && marks.release !== null && marks.land !== null ? between(clip.times, marks.release, marks.land, typedRate) : null
  const wrongWay = marks.release !== null && marks.land !== null && marks.land <= marks.release
  const pair: Pair | null =
    clip && text && marks.release !== null && marks.land !== null
      ? { text, from: marks.release, to: marks.land, stamps: [clip.times[marks.release] ?? 0, clip.times[marks.land] ?? 0] }
      : null
  const begun = marks.release !== null || marks.land !== null
  const ready = first ? pair !== null || !begun : pair !== null
  const take = () => {
    const reading = first ?? pair
    if (reading && ready) onTake(reading.text, [...reading.stamps, ...(first && pair ? pair.stamps : [])], first && pair ? pair.text : '')
  }
  /** Both pictures side by side as one small file on this device; the video goes nowhere. */
  const evidence = async () => {
    const shown = first ?? pair
    if (!clip || !shown) return
    try {
      const one = document.createElement('canvas')
      const both = document.createElement('canvas')
      const pen = both.getContext('2d')
      for (const [n, frame] of [shown.from, shown.to].entries()) {
        if (!(await clip.draw(frame, one)) || !pen) throw new Error('One of the two pictures could not be read.')
        const high = Math.round((KEPT_WIDE * one.height) / one.width)
        if (n === 0) {
          both.width = KEPT_WIDE * 2 + 8
          both.height = high + 44
          pen.fillStyle = 'white'
          pen.fillRect(0, 0, both.width, both.height)
          pen.fillStyle = 'black'
          pen.font = '24px sans-serif'
          pen.fillText(`${called}: ${shown.text}`, 10, high + 32)
        }
        pen.drawImage(one, n * (KEPT_WIDE + 8), 0, KEPT_WIDE, high)
      }
      const blob = await new Promise<Blob | null>((done) => both.toBlob(done, 'image/jpeg', 0.85))
      if (!blob) throw new Error('This browser cannot write the picture.')
      handOver(blob, `${called.replace(/[^\p{L}\p{N} ,.-]/gu, '')}.jpg`)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  useKeys((e) => {
    const far = e.shiftKey ? 10 : 1
    const by = { ArrowLeft: -far, ArrowRight: far }[e.key]
    const act = by ? () => step(by) : { r: () => mark('release'), l: () => mark('land'), Enter: take }[e.key]
    if (!act || !clip || (e.key === 'Enter' && e.target instanceof HTMLButtonElement)) return
    e.preventDefault()
    act()
  })
  const seconds = (frame: number | null) => (clip && frame !== null ? `${(clip.times[frame] ?? 0).toFixed(3)} s` : 'not marked')
  const even = clip ? evenRate(clip.times) : null
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-4">
      <p className="m-0 text-quiet">
        The video stays on this device. Step to the picture in which it is let go and press R, then to the one in which it first touches and press L.
      </p>
      <ChooseClip onClip={setFile} onSays={setSays} rate={rate} even={even} onRate={setRate} />
      {busy ? (
        <p className="m-0" role="status">
          Reading the pictures …
        </p>
      ) : null}
      <Told says={says} />
      {clip ? (
        <>
          <div className="grid justify-items-center bg-black">
            <canvas ref={canvas} className="max-h-[38vh] max-w-full" data-frame={at} aria-label={`Picture ${at + 1} of ${last + 1}`} role="img" />
          </div>
          <input
            ref={slider}
            type="range"
            min={0}
            max={last}
            value={at}
            aria-label="Picture"
            className="w-full"
            style={{ minHeight: 48 }}
            onChange={(e) => setAt(Number(e.target.value))}
          />
          <div className="flex flex-wrap items-center gap-2.5">
            {[-10, -1, 1, 10].map((by) => (
              <button key={by} type="button" className="btn min-h-[56px] min-w-[56px]" onClick={() => step(by)}>
                {by > 0 ? `+${by}` : `−${-by}`}
              </button>
            ))}
            <span className="big text-[1.3rem]" data-at>
              {at + 1} of {last + 1} · {seconds(at)}
            </span>
          </div>
          <div className="flex flex-wrap gap-2.5">
            <button type="button" className="btn min-h-[64px]" aria-pressed={marks.release !== null} onClick={() => mark('release')}>
              Released: {seconds(marks.release)}
            </button>
            <button type="button" className="btn min-h-[64px]" aria-pressed={marks.land !== null} onClick={() => mark('land')}>
              Landed: {seconds(marks.land)}
            </button>
            {pair && !first ? (
              <button
                type="button"
                className="btn min-h-[64px]"
                onClick={() => {
                  setFirst(pair)
                  setMarks({ release: null, land: null })
                }}
              >
                Mark a second pair
              </button>
            ) : null}
            {pair || first ? (
              <button type="button" className="btn min-h-[64px]" onClick={() => void evidence()}>
                Keep both pictures
              </button>
            ) : null}
          </div>
          <p className="big m-0 text-[1.6rem]" role="status" data-between>
            {wrongWay
              ? 'The landing is marked before the release. Mark one of them again.'
              : (text ?? (first ? 'Mark the second pair, or write the first down.' : 'Mark both pictures.'))}
            {first ? <span className="block text-[1.05rem] text-quiet">The reading: {first.text}</span> : null}
          </p>
          <p className="m-0 text-quiet">
            {clip.exact
              ? even
                ? `The file says ${even} pictures a second.`
                : 'The pictures of this file do not come evenly; each has its own time.'
              : 'This browser steps by the typed rate, because the page is not on this machine or on https.'}
          </p>
        </>
      ) : null}
      <div className="flex flex-wrap gap-3">
        <button type="button" className="btn btn-act" disabled={!ready} onClick={take}>
          Write it down
        </button>
        <button type="button" className="btn" onClick={onClose}>
          Without it
        </button>
      </div>
    </div>
  )
}
