import { useCallback, useEffect, useRef, useState } from 'react'
import { api, ask, Refusal, type Study } from '../../data/api'
import { anew, useThumbs } from '../../data/queries'
import { Line, Says, Sheet } from '../../parts/parts'
import { useKeys } from '../../parts/useKeys'

const TRIES = 10

/** Reaction practice: a light goes on and out again after a time that is known; ten presses give the thumb's bias and scatter. */
export function ThumbSheet({ open, onClose, study, who }: { open: boolean; onClose: () => void; study: Study; who?: string | undefined }) {
  return (
    <Sheet open={open} onClose={onClose} title="Try the thumb">
      {open ? <Practice study={study} whose={who ?? ''} /> : null}
    </Sheet>
  )
}

type Light = 'off' | 'soon' | 'on' | 'out'

function Practice({ study, whose }: { study: Study; whose: string }) {
  const [who, setWho] = useState(whose)
  const [light, setLight] = useState<Light>('off')
  const [tries, setTries] = useState<{ shown: number[]; pressed: number[] }>({ shown: [], pressed: [] })
  const [says, setSays] = useState('')
  const on = useRef(0)
  const out = useRef(0)
  const presses = useRef<number[]>([])
  const thumbs = useThumbs(study.id).data ?? []
  const done = tries.shown.length >= TRIES

  const begin = useCallback(() => {
    setSays('')
    presses.current = []
    setLight('soon')
  }, [])
  useEffect(() => {
    // the light's own times are those of the frames in which it is drawn
    if (light !== 'soon' && light !== 'on') return
    const wait = light === 'soon' ? 700 + 900 * Math.random() : 900 + 1400 * Math.random()
    let frame = 0
    const timer = setTimeout(() => {
      frame = requestAnimationFrame((at) => {
        if (light === 'soon') on.current = at
        else out.current = at
        setLight(light === 'soon' ? 'on' : 'out')
      })
    }, wait)
    return () => {
      clearTimeout(timer)
      cancelAnimationFrame(frame)
    }
  }, [light])

  const press = useCallback(
    (at: number) => {
      if (light === 'soon' || light === 'off') return
      presses.current = [...presses.current, at]
      if (presses.current.length < 2) return
      if (light === 'on') {
        presses.current = []
        setSays('That was before it went out. Once more.')
        setLight('soon')
        return
      }
      const [a = 0, b = 0] = presses.current
      setTries((t) => ({ shown: [...t.shown, (out.current - on.current) / 1000], pressed: [...t.pressed, (b - a) / 1000] }))
      presses.current = []
      setLight('off')
    },
    [light],
  )
  useEffect(() => {
    if (light === 'off' && tries.shown.length > 0 && !done) begin()
  }, [light, tries.shown.length, done, begin])

  useKeys((e) => {
    if (e.key !== ' ' || light === 'off') return
    e.preventDefault()
    if (!e.repeat) press(e.timeStamp)
  })

  const keep = async () => {
    try {
      const path = { study_id: study.id }
      const kept = await ask(api.POST('/api/studies/{study_id}/thumbs', { params: { path }, body: { who: who.trim() || 'seat 1', ...tries } }))
      setSays(kept.says)
      setTries({ shown: [], pressed: [] })
      await Promise.all(['thumbs', 'study', 'trials', 'analysis'].map((k) => anew([k, study.id])))
    } catch (why) {
      if (!(why instanceof Refusal)) throw why
      setSays(why.away ? 'The server cannot be reached. The tries are still here: keep them in a moment.' : why.message)
    }
  }
  return (
    <div className="grid gap-4">
      <p className="m-0 text-quiet">
        Press as the light comes on, and again as it goes out: ten times, as you would a fall. What your thumb adds is kept for this study.
      </p>
      <Line label="Whose thumb, by seat or number" value={who} placeholder="seat 1" onChange={(v) => setWho(v.slice(0, 40))} />
      {light === 'off' ? (
        done ? (
          <button type="button" className="btn btn-act min-h-[72px]" onClick={() => void keep()}>
            Keep it
          </button>
        ) : (
          <button type="button" className="btn btn-act min-h-[72px]" onClick={begin}>
            {tries.shown.length ? 'Go on' : 'Begin'}
          </button>
        )
      ) : (
        <button
          type="button"
          data-press
          data-light={light}
          className={`btn big min-h-[34vh] text-[2.2rem] ${light === 'on' ? 'bg-tape text-tape-ink' : ''}`}
          style={{ touchAction: 'manipulation' }}
          onPointerDown={(e) => press(e.timeStamp)}
        >
          {light === 'on' ? 'On' : light === 'soon' ? 'Wait' : 'Out'}
        </button>
      )}
      <p className="m-0" role="status" data-tries={tries.shown.length}>
        {says || (tries.shown.length ? `${tries.shown.length} of ${TRIES} tries.` : '')}
      </p>
      {thumbs.length ? (
        <ul className="m-0 list-none p-0" aria-label="Thumbs so far">
          {thumbs.map((t) => (
            <li key={t.who} className="hair py-1.5">
              <strong>{t.who}</strong>: {t.says}
            </li>
          ))}
        </ul>
      ) : null}
      {study.timing ? <Says>{study.timing}</Says> : null}
    </div>
  )
}
