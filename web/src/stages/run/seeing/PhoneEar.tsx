import { useEffect, useRef, useState } from 'react'
import { aheadOfPage, canHear, type Ears, hear, NO_EARS } from '../../../machines/ears'
import { RINGS_S } from '../../../machines/thud'
import { Told } from '../../../parts/parts'
import { LoudStrip } from './LoudStrip'

/** A further phone listens for the landing instead of a thumb. onLoud: when it began to be loud, by the page's clock in ms. */
export function PhoneEar({ onLoud }: { onLoud: (at: number) => void }) {
  const [says, setSays] = useState('')
  const [ears, setEars] = useState<Ears | null>(null)
  const [threshold, setThreshold] = useState(0.2)
  const [times, setTimes] = useState(0)
  const strip = useRef<HTMLDivElement>(null)
  const held = useRef(onLoud)
  held.current = onLoud
  useEffect(() => {
    if (!canHear()) return setSays(NO_EARS)
    let live = true
    let made: Ears | null = null
    let loudest = 0
    let last = Number.NEGATIVE_INFINITY
    void hear(({ peak, at }) => {
      loudest = Math.max(peak, loudest * 0.97)
      strip.current?.style.setProperty('--loud', String(Math.min(1, loudest)))
      if (at === null || !made) return
      const rings = at - last < RINGS_S
      last = at
      if (rings) return
      setTimes((n) => n + 1)
      held.current((at - aheadOfPage(made.context)) * 1000)
    })
      .then((opened) => {
        if (!live) return opened.stop()
        made = opened
        setEars(opened)
      })
      .catch((why: unknown) => live && setSays(why instanceof Error ? why.message : String(why)))
    return () => {
      live = false
      made?.stop()
    }
  }, [])
  useEffect(() => ears?.port.postMessage(threshold), [ears, threshold])
  return (
    <div className="grid gap-2" data-ear={ears ? 'open' : 'shut'}>
      <Told says={says} />
      {ears ? (
        <>
          <LoudStrip strip={strip} threshold={threshold} onThreshold={setThreshold} low />
          <p className="m-0 text-quiet" role="status">
            {times ? `Heard ${times === 1 ? 'once' : `${times} times`}.` : 'Lay it beside the landing and tap there: the line lies just below the tap.'} Nothing
            is recorded.
          </p>
        </>
      ) : null}
    </div>
  )
}
