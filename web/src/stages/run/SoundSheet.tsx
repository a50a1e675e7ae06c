import { useCallback, useEffect, useRef, useState } from 'react'
import { api, ask, Refusal, type Study } from '../../data/api'
import { firstOf } from '../../data/measures'
import { aheadOfPage, canHear, type Ears, hear, NO_EARS } from '../../machines/ears'
import { plainTime } from '../../machines/seeing/lines'
import { Thud } from '../../machines/thud'
import { Field, Sheet, Tick, Told } from '../../parts/parts'
import { useKeys } from '../../parts/useKeys'
import { LoudStrip } from './seeing/LoudStrip'
import { THUMB_S } from './seeing/looked.gen'

type Props = { open: boolean; onClose: () => void; study: Study; onTake: (text: string, stamps: number[]) => void }

/** The microphone hears the thud: its threshold shown on a strip, tried first, and nothing recorded. */
export function SoundSheet({ open, onClose, study, onTake }: Props) {
  return (
    <Sheet open={open} onClose={onClose} title="Time it by sound" wide>
      {open ? <Ear study={study} onTake={onTake} /> : null}
    </Sheet>
  )
}

/** Where the server cannot be asked: an onset is heard to about this, s (bendro/core/seeing/sound.py), the way of the sound unknown up to 5 m. */
const AWAY_S = 0.004

function Ear({ study, onTake }: Pick<Props, 'study' | 'onTake'>) {
  const [ears, setEars] = useState<Ears | null>(null)
  const [says, setSays] = useState('')
  const [threshold, setThreshold] = useState(0.2)
  const [byEar, setByEar] = useState(false)
  const [tried, setTried] = useState(0)
  const [release, setRelease] = useState('')
  const [land, setLand] = useState('')
  const [thud] = useState(() => new Thud())
  const [state, setState] = useState(thud.snapshot)
  const [read, setRead] = useState<{ text: string; shown: string; says: string } | null>(null)
  const strip = useRef<HTMLDivElement>(null)
  const hearing = useRef({ byEar, loudest: 0 })
  hearing.current.byEar = byEar
  const measure = firstOf(study.draft)
  const begin = async () => {
    if (!canHear()) return setSays(NO_EARS)
    try {
      const made = await hear(({ peak, at }) => {
        hearing.current.loudest = Math.max(peak, hearing.current.loudest * 0.97)
        strip.current?.style.setProperty('--loud', String(Math.min(1, hearing.current.loudest)))
        if (at === null) return
        thud.loud(at, hearing.current.byEar)
        setTried(thud.heard)
        setState(thud.snapshot)
      })
      setEars(made)
      setSays('')
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  useEffect(() => () => ears?.stop(), [ears])
  useEffect(() => ears?.port.postMessage(threshold), [ears, threshold])
  const letGo = useCallback(
    (at: number) => {
      if (!ears) return
      // a press has its stamp on the page's clock; the sound has its own
      thud.release(at / 1000 + aheadOfPage(ears.context))
      setState(thud.snapshot)
    },
    [ears, thud],
  )
  useKeys((e) => {
    if (e.key !== ' ' || e.repeat || byEar || !ears) return
    e.preventDefault()
    letGo(e.timeStamp)
  })
  const again = () => {
    thud.clear()
    setState(thud.snapshot)
  }
  useEffect(() => {
    setRead(null)
    if (state.state !== 'timed') return
    let live = true
    const { from, to, heard } = state
    const body = { from_s: from, to_s: to, pressed: !heard, release, land }
    void ask(api.POST('/api/studies/{study_id}/heard-time', { params: { path: { study_id: study.id } }, body, signal: AbortSignal.timeout(4_000) }))
      .then((got) => {
        const time = got.found[0]
        if (live && time) setRead({ text: time.texts[measure.unit ?? 's'] ?? `${time.text} s`, shown: `${time.text} s`, says: got.says.join(' ') })
      })
      .catch((why: unknown) => {
        if (!live) return
        const plain = plainTime(to - from, Math.hypot(AWAY_S, heard ? 0 : THUMB_S))
        setRead({ text: plain, shown: plain, says: why instanceof Refusal && !why.away ? why.message : '' })
      })
    return () => {
      live = false
    }
  }, [state, release, land, study.id, measure.unit])
  return (
    <div className="grid gap-4">
      <p className="m-0 text-quiet">
        The microphone listens for the landing. Nothing is recorded. Try it first: tap where it will land, and set the line just below the tap.
      </p>
      <Told says={says} />
      {ears ? (
        <>
          <LoudStrip strip={strip} threshold={threshold} onThreshold={setThreshold} />
          <p className="m-0" role="status" data-tried>
            {state.state === 'timed' ? (
              <span className="big text-[2.6rem]">{read?.shown ?? '…'}</span>
            ) : state.state === 'waiting' ? (
              'Falling. It waits for the thud.'
            ) : tried ? (
              `Heard ${tried === 1 ? 'once' : `${tried} times`} so far.`
            ) : (
              'Nothing heard yet.'
            )}
          </p>
          {state.state === 'timed' && read?.says ? <p className="m-0 text-quiet">{read.says}</p> : null}
          <Tick checked={byEar} onChange={setByEar}>
            Hear the release as well (a clap, the click of a clamp, or the pop of a rocket as it is let go)
          </Tick>
          <div className="grid gap-4 md:grid-cols-2">
            {byEar ? (
              <Field label="From the release to the microphone">
                {(p) => <input {...p} className="field" placeholder="2 m" value={release} onChange={(e) => setRelease(e.target.value)} />}
              </Field>
            ) : null}
            <Field label="From the landing to the microphone">
              {(p) => <input {...p} className="field" placeholder="1 m" value={land} onChange={(e) => setLand(e.target.value)} />}
            </Field>
          </div>
          <div className="flex flex-wrap gap-3">
            {byEar || state.state !== 'quiet' ? null : (
              <button
                type="button"
                data-press
                className="btn btn-act big min-h-[96px] grow text-[2rem]"
                style={{ touchAction: 'manipulation' }}
                onPointerDown={(e) => letGo(e.timeStamp)}
              >
                Release
              </button>
            )}
            {state.state === 'quiet' ? null : (
              <button type="button" className="btn min-h-[64px]" onClick={again}>
                Again
              </button>
            )}
            {state.state === 'timed' && read ? (
              <button type="button" className="btn btn-act min-h-[64px]" onClick={() => onTake(read.text, [state.from, state.to])}>
                Write it down
              </button>
            ) : null}
          </div>
        </>
      ) : (
        <button type="button" className="btn btn-act justify-self-start" onClick={() => void begin()}>
          Listen
        </button>
      )}
    </div>
  )
}
