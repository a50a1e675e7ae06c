import { type PointerEvent, useEffect, useRef, useState } from 'react'
import { api, ask, type FoundOut, type Study } from '../../../data/api'
import { Field, Sheet, Tick, Told } from '../../../parts/parts'
import type { HowFirst } from '../useEntry'
import { FoundList } from './FoundList'
import { TapeOver } from './TapeOver'
import { useCamera } from './useCamera'

type Props = { open: boolean; onClose: () => void; study: Study; onReading: (place: string, text: string, how: Omit<HowFirst, 'text'>) => void }
type Point = { x: number; y: number }
type Number_ = Point & { says: string }

const WIDE = 1280

/** A landing read off a picture of it with the tape: nobody bends down and reads the wrong edge. */
export function PictureSheet({ open, onClose, study, onReading }: Props) {
  return (
    <Sheet open={open} onClose={onClose} title="Read it off a picture" wide>
      {open ? <Reader study={study} onReading={onReading} onClose={onClose} /> : null}
    </Sheet>
  )
}

function Reader({ study, onReading, onClose }: Omit<Props, 'open'>) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const [size, setSize] = useState<{ wide: number; high: number } | null>(null)
  const [numbers, setNumbers] = useState<Number_[]>([])
  const [mark, setMark] = useState<Point | null>(null)
  const [three, setThree] = useState(false)
  const [says, setSays] = useState('')
  const [read, setRead] = useState<{ found: FoundOut[]; says: string[] } | null>(null)
  const [written, setWritten] = useState('')
  const camera = useCamera(() => undefined)
  const show = (picture: CanvasImageSource, w: number, h: number) => {
    const el = canvas.current
    if (!el || !w) return
    el.width = Math.min(WIDE, w)
    el.height = Math.round((el.width * h) / w)
    el.getContext('2d')?.drawImage(picture, 0, 0, el.width, el.height)
    setSize({ wide: el.width, high: el.height })
    setNumbers([])
    setMark(null)
    setRead(null)
  }
  const open = async (file: File | undefined) => {
    if (!file) return
    try {
      const picture = await createImageBitmap(file)
      show(picture, picture.width, picture.height)
      setSays('')
    } catch {
      setSays('This file is no picture that this browser can show. JPEG and PNG can be opened.')
    }
  }
  const take = () => {
    const v = camera.video.current
    if (v) show(v, v.videoWidth, v.videoHeight)
    camera.close()
  }
  const wanted = three ? 3 : 2
  const ready = numbers.length >= wanted
  const touch = (e: PointerEvent<HTMLCanvasElement>) => {
    const r = e.currentTarget.getBoundingClientRect()
    const p = { x: ((e.clientX - r.left) / r.width) * e.currentTarget.width, y: ((e.clientY - r.top) / r.height) * e.currentTarget.height }
    setRead(null)
    if (ready) setMark(p)
    else setNumbers((all) => [...all, { ...p, says: '' }])
  }
  const typed = numbers.slice(0, wanted).every((n) => n.says.trim())
  // a finger is wider than a point of the picture: what one point of the screen is in the picture
  const scale = size && canvas.current ? size.wide / Math.max(1, canvas.current.clientWidth) : 1
  useEffect(() => {
    if (!mark || !ready || !typed) return
    let live = true
    const body = { numbers: numbers.slice(0, wanted).map((n) => ({ where: { x: n.x, y: n.y }, at: n.says })), mark, touch: Math.max(1, 1.5 * scale) }
    void ask(api.POST('/api/studies/{study_id}/tape-picture', { params: { path: { study_id: study.id } }, body }))
      .then((got) => {
        if (!live) return
        setRead(got)
        setSays('')
      })
      .catch((why: unknown) => {
        if (!live) return
        setRead(null)
        setSays(why instanceof Error ? why.message : String(why))
      })
    return () => {
      live = false
    }
  }, [mark, numbers, ready, typed, wanted, scale, study.id])
  const [a, b] = numbers
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-4">
      <p className="m-0 text-quiet">
        Take the picture from straight above the mark, with two numbers of the tape in it. The picture stays on this device; only what is read goes on.
      </p>
      <div className="flex flex-wrap items-end gap-4">
        <Field label="A picture">
          {(p) => <input {...p} type="file" accept="image/*" className="max-w-full" onChange={(e) => void open(e.target.files?.[0])} />}
        </Field>
        <span className={camera.source ? 'flex items-center gap-3' : 'hidden'}>
          <video ref={camera.video} muted playsInline className="h-40" aria-label="The camera’s picture" />
          <button type="button" className="btn btn-act min-h-[64px]" onClick={take}>
            Take the picture
          </button>
        </span>
        {camera.source ? null : (
          <button type="button" className="btn" onClick={() => camera.open()}>
            Open the camera
          </button>
        )}
      </div>
      <Told says={says || camera.says} />
      <div className={size ? 'relative justify-self-center' : 'hidden'}>
        <canvas
          ref={canvas}
          className="block max-h-[52vh] max-w-full cursor-crosshair"
          style={{ touchAction: 'none' }}
          onPointerDown={touch}
          role="img"
          aria-label="The picture with the tape"
        />
        {size ? (
          <svg
            className="pointer-events-none absolute inset-0 h-full w-full"
            viewBox={`0 0 ${size.wide} ${size.high}`}
            preserveAspectRatio="none"
            aria-hidden="true"
          >
            {a && b && !three && typed ? <TapeOver a={a} b={b} says={[a.says, b.says]} /> : null}
            {numbers.map((n, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the touches in their order
              <g key={i}>
                <circle cx={n.x} cy={n.y} r={9 * scale} fill="none" stroke="#18211f" strokeWidth={5 * scale} />
                <circle cx={n.x} cy={n.y} r={9 * scale} fill="none" stroke="var(--tape)" strokeWidth={3 * scale} />
              </g>
            ))}
            {mark ? (
              <g stroke="#18211f" strokeWidth={3 * scale}>
                <path d={`M ${mark.x} ${mark.y - 34 * scale} L ${mark.x} ${mark.y}`} />
                <path d={`M ${mark.x} ${mark.y} l ${-8 * scale} ${-14 * scale} l ${16 * scale} 0 z`} fill="#18211f" />
              </g>
            ) : null}
          </svg>
        ) : null}
      </div>
      {size ? (
        <>
          <p className="m-0 text-[1.1rem] font-semibold" role="status">
            {!ready
              ? `Touch ${['a number', 'a second number', 'a third number'][numbers.length]} of the tape, at its line.`
              : mark
                ? 'Touch the mark anew to move it.'
                : 'Now touch the mark, where it is read.'}
          </p>
          <div className="flex flex-wrap items-end gap-4">
            {numbers.map((n, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the touches in their order
              <Field key={i} label={`The ${['first', 'second', 'third'][i]} number, in m`}>
                {(p) => (
                  <input
                    {...p}
                    className="field w-32"
                    inputMode="decimal"
                    placeholder={i ? '4' : '3'}
                    value={n.says}
                    onChange={(e) => setNumbers((all) => all.map((x, k) => (k === i ? { ...x, says: e.target.value } : x)))}
                  />
                )}
              </Field>
            ))}
            <button
              type="button"
              className="btn"
              onClick={() => {
                setNumbers([])
                setMark(null)
                setRead(null)
              }}
            >
              Touch anew
            </button>
          </div>
          <Tick
            checked={three}
            onChange={(on) => {
              setThree(on)
              setRead(null)
            }}
          >
            The tape runs away from the camera: touch three numbers
          </Tick>
        </>
      ) : null}
      {read?.says.map((s) => (
        <p key={s} className="m-0 font-semibold text-doubt">
          {s}
        </p>
      ))}
      {read ? (
        <FoundList
          study={study}
          found={read.found}
          onUse={(place, text) => {
            onReading(place.name, text, { taken: 'picture', stamps: [], source: 'a picture' })
            setWritten(text)
          }}
        />
      ) : null}
      <p className="m-0 font-semibold" role="status">
        {written ? `Written down: ${written}.` : ''}
      </p>
      <button type="button" className="btn justify-self-start" onClick={onClose}>
        {written ? 'To the lane' : 'Without it'}
      </button>
    </div>
  )
}
