import { type PointerEvent, useCallback, useEffect, useState } from 'react'
import { api, ask, type FoundOut, type KeepSeen, type Study } from '../../../data/api'
import { evenRate } from '../../../machines/frames'
import { Field, Pick, Sheet, Tick, Told } from '../../../parts/parts'
import { useKeys } from '../../../parts/useKeys'
import type { HowFirst } from '../useEntry'
import { ChooseClip } from './ChooseClip'
import { FoundList } from './FoundList'
import { LIKELY, LOOKED, MADE } from './looked.gen'
import { SHOWN, type Shown, TrackPlot } from './TrackPlot'
import { TapeOver } from './TapeOver'
import { useClip } from './useClip'
import { useFollow } from './useFollow'

type Props = {
  open: boolean
  onClose: () => void
  study: Study
  called: string
  onReading: (place: string, text: string, how: Omit<HowFirst, 'text'>) => void
  onBeside: (seen: KeepSeen) => void
}
type Followed = NonNullable<KeepSeen['followed']>
type Looked = Followed['looked']
type Point = { x: number; y: number }
type Touching = 'tape' | 'corners' | 'thing' | null
type Worked = { found: FoundOut[]; says: string[]; columns: string[]; rows: number[][] }

const LIES: readonly (readonly [NonNullable<Followed['marks']>['lie'] & string, string])[] = [
  ['level', 'It lies level'],
  ['upright', 'It stands upright'],
  ['any', 'Neither: the picture is straight'],
]
const USUAL_RATE = 30
const KEPT_WIDE = 480

/** A thing touched once in a clip and followed: where it was in each picture, and what that tells. */
export function FollowSheet({ open, onClose, ...rest }: Props) {
  return (
    <Sheet open={open} onClose={onClose} title="Follow it through a clip" wide>
      {open ? <Follower onClose={onClose} {...rest} /> : null}
    </Sheet>
  )
}

function Follower({ onClose, study, called, onReading, onBeside }: Omit<Props, 'open'>) {
  const [file, setFile] = useState<Blob | null>(null)
  const [at, setAt] = useState(0)
  const [rate, setRate] = useState('')
  const [says, setSays] = useState('')
  const [touching, setTouching] = useState<Touching>(null)
  const [tape, setTape] = useState<Point[]>([])
  const [corners, setCorners] = useState<Point[]>([])
  const [aslant, setAslant] = useState(false)
  const [apart, setApart] = useState('')
  const [wide, setWide] = useState('')
  const [high, setHigh] = useState('')
  const [lie, setLie] = useState<'level' | 'upright' | 'any'>('any')
  const [share, setShare] = useState(0.05)
  const [looked, setLooked] = useState<Looked>(LIKELY[study.draft.family ?? ''] ?? 'fall')
  const [shown, setShown] = useState<Shown>('speed')
  const [worked, setWorked] = useState<Worked | null>(null)
  const [pictures, setPictures] = useState(false)
  const [written, setWritten] = useState<readonly string[]>([])
  const begin = useCallback(() => {
    setAt(0)
    setTape([])
    setCorners([])
    setWorked(null)
    setTouching(null)
  }, [])
  const typedRate = Number(rate.replace(',', '.')) > 0 ? Number(rate.replace(',', '.')) : null
  const { clip, busy, canvas } = useClip(file, typedRate ?? USUAL_RATE, at, setSays, begin)
  const { now, follow, stop, clear } = useFollow(clip)
  const last = (clip?.times.length ?? 1) - 1
  const even = clip ? evenRate(clip.times) : null
  const going = now.state === 'going'
  useEffect(() => {
    if (now.state === 'going' || now.state === 'lost') setAt(now.at)
  }, [now.state, now.at])
  // what is to be touched is in sight, wherever the button was
  useEffect(() => {
    if (touching) canvas.current?.scrollIntoView({ block: 'center' })
  }, [touching, canvas])
  const step = (by: number) => setAt((n) => Math.max(0, Math.min(last, n + by)))
  useKeys((e) => {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
    if (!by || !clip || going || e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement) return
    e.preventDefault()
    step(e.shiftKey ? by * 10 : by)
  })
  const open = async (name: string, look: Looked, fps: number) => {
    try {
      const got = await fetch(`/api/made/${name}`)
      if (!got.ok) throw new Error('The made clip could not be had. Is the network there?')
      setFile(await got.blob())
      setLooked(look)
      setRate('VideoDecoder' in globalThis ? '' : String(fps)) // a film that is stepped by a player has no times of its own
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  const touch = (e: PointerEvent<HTMLCanvasElement>) => {
    const el = e.currentTarget
    const r = el.getBoundingClientRect()
    const p = { x: ((e.clientX - r.left) / r.width) * el.width, y: ((e.clientY - r.top) / r.height) * el.height }
    if (touching === 'tape') {
      const next = tape.length >= 2 ? [p] : [...tape, p]
      setTape(next)
      if (next.length === 2) setTouching(null)
    } else if (touching === 'corners') {
      const next = corners.length >= 4 ? [p] : [...corners, p]
      setCorners(next)
      if (next.length === 4) setTouching(null)
    } else if (touching === 'thing') {
      setTouching(null)
      setWorked(null)
      follow(at, { ...p, size: share * el.width })
    }
  }
  const laid = aslant ? corners.length === 4 && wide.trim() !== '' && high.trim() !== '' : tape.length === 2 && apart.trim() !== ''
  const body = (): Followed | null => {
    if (!clip || !laid || now.places.length < 2) return null
    const seconds = (frame: number) => (typedRate ? frame / typedRate : (clip.times[frame] ?? 0))
    const first = now.places[0]?.frame ?? 0
    const end = now.places.at(-1)?.frame ?? 0
    const [a, b] = tape
    return {
      looked,
      track: {
        t: now.places.map((p) => Number(seconds(p.frame).toFixed(6))),
        x: now.places.map((p) => Number(p.x.toFixed(3))),
        y: now.places.map((p) => Number(p.y.toFixed(3))),
        lost: Math.max(0, end - first + 1 - now.places.length),
      },
      marks: aslant || !a || !b ? null : { a, b, apart, touch: 1.5, lie },
      corners: aslant ? { corners, wide, high, touch: 1.5 } : null,
    }
  }
  const work = async () => {
    const sent = body()
    if (!sent) return
    try {
      setSays('')
      const got = await ask(api.POST('/api/studies/{study_id}/followed', { params: { path: { study_id: study.id } }, body: sent }))
      setWorked(got as Worked) // the client widens tuples to arrays
    } catch (why) {
      setWorked(null)
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  const use = async (place: string, text: string) => {
    const sent = body()
    const [first, end] = [now.places[0], now.places.at(-1)]
    if (!sent || !clip || !first || !end) return
    const kept = pictures ? await small(clip, [first.frame, now.places[Math.floor(now.places.length / 2)]?.frame ?? 0, end.frame]) : []
    onBeside({ followed: sent, felt: null, pictures: kept })
    onReading(place, text, { taken: 'followed', stamps: [sent.track.t[0] ?? 0, sent.track.t.at(-1) ?? 0], source: 'a clip' })
    setWritten((all) => [...all, text])
  }
  const box = { wide: canvas.current?.width || now.size.wide, high: canvas.current?.height || now.size.high }
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-4">
      <p className="m-0 text-quiet">The clip stays on this device. Lay the tape, touch the thing once, and it is followed from picture to picture.</p>
      <ChooseClip onClip={setFile} onSays={setSays} rate={rate} even={even} onRate={setRate} />
      {clip ? null : (
        <p className="m-0 flex flex-wrap items-center gap-2">
          <span className="text-quiet">Without a clip, try it with</span>
          {MADE.map(([name, , look, fps]) => (
            <button key={name} type="button" className="btn min-h-[48px]" onClick={() => void open(name, look, fps)}>
              the made {name}
            </button>
          ))}
        </p>
      )}
      {busy ? (
        <p className="m-0" role="status">
          Reading the pictures …
        </p>
      ) : null}
      <Told says={says} />
      {clip ? (
        <>
          <div className="relative grid justify-items-center bg-black">
            <div className="relative">
              <canvas
                ref={canvas}
                className={`block max-h-[46vh] max-w-full ${touching ? 'cursor-crosshair' : ''}`}
                data-frame={at}
                data-touching={touching ?? undefined}
                aria-label={`Picture ${at + 1} of ${last + 1}`}
                role="img"
                style={{ touchAction: touching ? 'none' : undefined }}
                onPointerDown={touch}
              />
              <svg
                className="pointer-events-none absolute inset-0 h-full w-full"
                viewBox={`0 0 ${box.wide} ${box.high}`}
                preserveAspectRatio="none"
                aria-hidden="true"
              >
                {!aslant && tape[0] && tape[1] ? <TapeOver a={tape[0]} b={tape[1]} says={['0', apart || '1']} /> : null}
                {(aslant ? corners : tape.length === 1 ? tape : []).map((p, n) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: the touches in their order
                  <circle key={n} cx={p.x} cy={p.y} r={7} fill="var(--tape)" stroke="#18211f" strokeWidth={2} />
                ))}
                {aslant && corners.length > 1 ? (
                  <polygon points={corners.map((p) => `${p.x},${p.y}`).join(' ')} fill="none" stroke="var(--tape)" strokeWidth={3} />
                ) : null}
                <polyline points={now.places.map((p) => `${p.x},${p.y}`).join(' ')} fill="none" stroke="#fffdf6" strokeWidth={4} opacity={0.7} />
                <polyline points={now.places.map((p) => `${p.x},${p.y}`).join(' ')} fill="none" stroke="#18211f" strokeWidth={1.5} />
                {now.places
                  .filter((p) => p.frame === at)
                  .map((p) => (
                    <circle key={p.frame} cx={p.x} cy={p.y} r={(share * box.wide) / 2} fill="none" stroke="var(--tape)" strokeWidth={4} />
                  ))}
              </svg>
            </div>
          </div>
          <input
            type="range"
            min={0}
            max={last}
            value={at}
            disabled={going}
            aria-label="Picture"
            className="w-full"
            style={{ minHeight: 44 }}
            onChange={(e) => setAt(Number(e.target.value))}
          />
          <div className="flex flex-wrap items-center gap-2.5">
            {[-10, -1, 1, 10].map((by) => (
              <button key={by} type="button" className="btn min-h-[48px] min-w-[48px]" disabled={going} onClick={() => step(by)}>
                {by > 0 ? `+${by}` : `−${-by}`}
              </button>
            ))}
            <span className="big text-[1.2rem]">
              {at + 1} of {last + 1}
            </span>
          </div>
          <div className="grid gap-x-6 gap-y-3 md:grid-cols-2">
            <div className="grid content-start gap-2">
              <Tick checked={aslant} onChange={setAslant}>
                The camera looks at it aslant: four corners of a rectangle instead of a tape
              </Tick>
              {aslant ? (
                <>
                  <button type="button" className="btn min-h-[56px]" aria-pressed={touching === 'corners'} onClick={() => setTouching('corners')}>
                    {touching === 'corners' ? (CORNERS[corners.length % 4] ?? '') : 'Touch the four corners'}
                  </button>
                  <div className="grid grid-cols-2 gap-3">
                    <Field label="How wide it is">
                      {(p) => <input {...p} className="field" placeholder="2 m" value={wide} onChange={(e) => setWide(e.target.value)} />}
                    </Field>
                    <Field label="How high or deep">
                      {(p) => <input {...p} className="field" placeholder="1 m" value={high} onChange={(e) => setHigh(e.target.value)} />}
                    </Field>
                  </div>
                </>
              ) : (
                <>
                  <button type="button" className="btn min-h-[56px]" aria-pressed={touching === 'tape'} onClick={() => setTouching('tape')}>
                    {touching === 'tape' ? (tape.length === 1 ? 'Touch the second mark' : 'Touch the first of two marks') : 'Lay the tape: touch two marks'}
                  </button>
                  <div className="grid grid-cols-2 gap-3">
                    <Field label="They are apart">
                      {(p) => <input {...p} className="field" placeholder="2 m" value={apart} onChange={(e) => setApart(e.target.value)} />}
                    </Field>
                    <Pick label="How the tape lies" value={lie} options={LIES} onChange={setLie} />
                  </div>
                </>
              )}
            </div>
            <div className="grid content-start gap-2">
              <label className="grid font-semibold">
                How large the thing is in the picture
                <input
                  type="range"
                  min={0.02}
                  max={0.12}
                  step={0.005}
                  value={share}
                  style={{ minHeight: 44 }}
                  onChange={(e) => setShare(Number(e.target.value))}
                />
              </label>
              {going ? (
                <button type="button" className="btn min-h-[64px]" onClick={stop}>
                  Stop following
                </button>
              ) : (
                <button type="button" className="btn btn-act min-h-[64px]" aria-pressed={touching === 'thing'} onClick={() => setTouching('thing')}>
                  {touching === 'thing'
                    ? 'Touch it in the picture'
                    : now.state === 'lost'
                      ? 'Touch it again here'
                      : now.places.length
                        ? 'Touch it again from here'
                        : 'Touch the thing'}
                </button>
              )}
              <p className="m-0" role="status" data-following={now.state}>
                {going
                  ? `Following: picture ${now.at + 1} of ${last + 1}.`
                  : now.state === 'lost'
                    ? `Lost at picture ${now.at + 1}. Touch it again there, or leave it: the track ends before.`
                    : now.places.length
                      ? `Followed through ${now.places.length} pictures.`
                      : 'Step to the picture before it moves, then touch it.'}
              </p>
              {now.places.length && !going ? (
                <button type="button" className="btn btn-plain justify-self-start px-0" onClick={clear}>
                  Forget the track
                </button>
              ) : null}
            </div>
          </div>
          <div className="flex flex-wrap items-end gap-4">
            <Pick label="What is looked for" value={looked} options={LOOKED} onChange={setLooked} />
            <button type="button" className="btn btn-act min-h-[56px]" disabled={!laid || now.places.length < 2 || going} onClick={() => void work()}>
              Work it out
            </button>
            {!laid && now.places.length ? <p className="m-0 font-semibold text-doubt">Lay the tape and write how far its marks are apart first.</p> : null}
          </div>
          {worked ? (
            <>
              {worked.says.map((s) => (
                <p key={s} className="m-0">
                  {s}
                </p>
              ))}
              <FoundList study={study} found={worked.found} onUse={(place, text) => void use(place.name, text)} />
              <Tick checked={pictures} onChange={setPictures}>
                Keep three small pictures with the trial
              </Tick>
              <Pick
                label="Against time"
                value={shown}
                options={(['speed', 'y', 'x', 'acceleration'] as const).map((k) => [k, SHOWN[k][0]] as const)}
                onChange={setShown}
              />
              <TrackPlot columns={worked.columns} rows={worked.rows} shown={shown} />
            </>
          ) : null}
        </>
      ) : null}
      <p className="m-0 min-h-[1.5rem] font-semibold" role="status">
        {written.length ? `Written down for ${called}: ${written.join(', ')}. The track goes with the trial as a table.` : ''}
      </p>
      <button type="button" className="btn justify-self-start" onClick={onClose}>
        {written.length ? 'To the lane' : 'Without it'}
      </button>
    </div>
  )
}

const CORNERS = ['Touch the lower left corner', 'Touch the lower right corner', 'Touch the upper right corner', 'Touch the upper left corner']

/** A few pictures of a clip as small files, in base64. */
async function small(clip: { draw: (frame: number, canvas: HTMLCanvasElement) => Promise<boolean> }, frames: readonly number[]): Promise<string[]> {
  const made: string[] = []
  for (const frame of frames) {
    const whole = document.createElement('canvas')
    if (!(await clip.draw(frame, whole))) continue
    const one = document.createElement('canvas')
    one.width = Math.min(KEPT_WIDE, whole.width)
    one.height = Math.round((one.width * whole.height) / whole.width)
    one.getContext('2d')?.drawImage(whole, 0, 0, one.width, one.height)
    made.push(one.toDataURL('image/jpeg', 0.8).split(',')[1] ?? '')
  }
  return made
}
