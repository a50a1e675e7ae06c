import { useCallback, useEffect, useRef, useState } from 'react'
import workletUrl from '../../machines/listen.worklet.js?url&no-inline'
import { inSeconds } from '../../machines/trialRun'
import { Thud } from '../../machines/thud'
import { Sheet, Tick, Told } from '../../parts/parts'
import { useKeys } from '../../parts/useKeys'

type Props = { open: boolean; onClose: () => void; onTake: (text: string, stamps: number[]) => void }

/** The microphone hears the thud: its threshold shown on a strip, tried first, and nothing recorded. */
export function SoundSheet({ open, onClose, onTake }: Props) {
  return (
    <Sheet open={open} onClose={onClose} title="Time it by sound" wide>
      {open ? <Ear onTake={onTake} /> : null}
    </Sheet>
  )
}

type Ears = { context: AudioContext; stop: () => void; port: MessagePort }

async function hear(onBlock: (block: { peak: number; at: number | null }) => void): Promise<Ears> {
  const stream = await navigator.mediaDevices.getUserMedia({ audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false } })
  const context = new AudioContext()
  await context.audioWorklet.addModule(workletUrl)
  const node = new AudioWorkletNode(context, 'listen', { numberOfOutputs: 0 })
  context.createMediaStreamSource(stream).connect(node)
  node.port.onmessage = (e: MessageEvent<{ peak: number; at: number | null }>) => onBlock(e.data)
  const stop = () => {
    for (const t of stream.getTracks()) t.stop()
    void context.close()
  }
  return { context, stop, port: node.port }
}

function Ear({ onTake }: Pick<Props, 'onTake'>) {
  const [ears, setEars] = useState<Ears | null>(null)
  const [says, setSays] = useState('')
  const [threshold, setThreshold] = useState(0.2)
  const [byEar, setByEar] = useState(false)
  const [tried, setTried] = useState(0)
  const [thud] = useState(() => new Thud())
  const [state, setState] = useState(thud.snapshot)
  const strip = useRef<HTMLDivElement>(null)
  const hearing = useRef({ byEar, loudest: 0 })
  hearing.current.byEar = byEar
  const begin = async () => {
    if (!('mediaDevices' in navigator) || !('AudioWorkletNode' in globalThis))
      return setSays('The microphone needs this page on this machine or on https. Time it by the thumb or by frames here.')
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
      const named =
        why instanceof DOMException && why.name === 'NotAllowedError' ? 'The browser does not let this page listen' : 'The microphone could not be opened'
      setSays(`${named}. Allow it in the browser, or time it by the thumb. (${why instanceof Error ? why.message : String(why)})`)
    }
  }
  useEffect(() => () => ears?.stop(), [ears])
  useEffect(() => ears?.port.postMessage(threshold), [ears, threshold])
  const release = useCallback(
    (at: number) => {
      if (!ears) return
      // a press has its stamp on the page's clock; the sound has its own: both are known at one moment
      const both = ears.context.getOutputTimestamp()
      const shift = both.performanceTime ? (both.contextTime ?? 0) - both.performanceTime / 1000 : ears.context.currentTime - performance.now() / 1000
      thud.release(at / 1000 + shift)
      setState(thud.snapshot)
    },
    [ears, thud],
  )
  useKeys((e) => {
    if (e.key !== ' ' || e.repeat || byEar || !ears) return
    e.preventDefault()
    release(e.timeStamp)
  })
  const again = () => {
    thud.clear()
    setState(thud.snapshot)
  }
  const text = state.state === 'timed' ? inSeconds((state.to - state.from) * 1000) : ''
  return (
    <div className="grid gap-4">
      <p className="m-0 text-quiet">
        The microphone listens for the landing. Nothing is recorded. Try it first: tap where it will land, and set the line just below the tap.
      </p>
      <Told says={says} />
      {ears ? (
        <>
          <div ref={strip} className="relative h-14 bg-tape" role="img" aria-label="How loud it is, and the line that counts as a thud">
            <div className="absolute inset-y-0 left-0 bg-tape-ink/70" style={{ width: 'calc(var(--loud, 0) * 100%)' }} />
            <div className="absolute inset-y-0 w-[5px] bg-act" style={{ left: `${threshold * 100}%` }} />
          </div>
          <label className="grid font-semibold">
            Counts as a thud from here
            <input
              type="range"
              min={0.02}
              max={0.98}
              step={0.01}
              value={threshold}
              style={{ minHeight: 48 }}
              onChange={(e) => setThreshold(Number(e.target.value))}
            />
          </label>
          <p className="m-0" role="status" data-tried>
            {state.state === 'timed' ? (
              <span className="big text-[2.6rem]">{text} s</span>
            ) : state.state === 'waiting' ? (
              'Falling. It waits for the thud.'
            ) : tried ? (
              `Heard ${tried === 1 ? 'once' : `${tried} times`} so far.`
            ) : (
              'Nothing heard yet.'
            )}
          </p>
          <Tick checked={byEar} onChange={setByEar}>
            Hear the release as well (a clap or a click as it is let go)
          </Tick>
          <div className="flex flex-wrap gap-3">
            {byEar || state.state !== 'quiet' ? null : (
              <button
                type="button"
                data-press
                className="btn btn-act big min-h-[96px] grow text-[2rem]"
                style={{ touchAction: 'manipulation' }}
                onPointerDown={(e) => release(e.timeStamp)}
              >
                Release
              </button>
            )}
            {state.state === 'quiet' ? null : (
              <button type="button" className="btn min-h-[64px]" onClick={again}>
                Again
              </button>
            )}
            {state.state === 'timed' ? (
              <button type="button" className="btn btn-act min-h-[64px]" onClick={() => onTake(text, [state.from, state.to])}>
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
