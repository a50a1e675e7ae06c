import { type ReactNode, useCallback, useEffect, useRef, useState } from 'react'
import { api, ask, type Question, Refusal, type Study, type Turn } from '../../../data/api'
import { firstOf, placesOf } from '../../../data/measures'
import { labelOf } from '../../../data/trials'
import { plainTime, touched } from '../../../machines/seeing/lines'
import { turnKey } from '../../../machines/turns'
import { Pressed } from '../LaneButtons'
import type { HowFirst } from '../useEntry'
import { GatePicture } from './GatePicture'
import { GateSetUp, GateTold } from './GateSide'
import { SignalStrip } from './SignalStrip'
import { LIKELY, THUMB_S } from './looked.gen'
import { type PassedAt, useGates } from './useGates'

type Props = {
  study: Study
  turn: Turn
  /** Which trial of its level this is, and of how many. */
  nth: string
  value: string
  said: { text: string; bad: boolean }
  asked: readonly Question[]
  practice: boolean
  onReading: (place: string, text: string, how: Omit<HowFirst, 'text'>) => void
  onKeep: () => void
  onVoid: () => void
  onUndo: () => void
  /** What is written is taken out of the field again. */
  onAgain: () => void
  onClose: () => void
}

const ALONE: readonly number[] = []
/** A start that is crossed again so much later is a new one, s. */
const ANEW_S = 1

type Pair = { first: PassedAt | null; last: PassedAt | null }
const NONE: Pair = { first: null, last: null }

/** The lane with the camera as its gate: the picture, its two lines, what they see, and the time between them; kept and voided as ever. */
export function GateView({ study, turn, nth, value, said, asked, practice, onReading, onKeep, onVoid, onUndo, onAgain, onClose }: Props) {
  const [pair, setPair] = useState<Pair>(NONE)
  const now = useRef(pair)
  now.current = pair
  const [counts, setCounts] = useState(false)
  const [says, setSays] = useState<{ text: string; more: string; off?: string | undefined }>({ text: '', more: '' })
  const [laying, setLaying] = useState<'a' | 'b' | null>(null)
  const put = useCallback((next: Pair) => {
    now.current = next
    setPair(next)
  }, [])
  const passed = useCallback(
    (p: PassedAt) => {
      const { first, last } = now.current
      if (last) return // until it is kept, voided or cleared
      if (p.role.start) {
        if (!first || p.t - first.t > ANEW_S) put({ first: p, last: null })
      } else if (first) put({ first, last: p })
      else setSays({ text: 'The end was crossed before the start. Run it the other way, or change the two lines.', more: '' })
    },
    [put],
  )
  const again = useCallback(() => {
    if (!now.current.last) put(NONE)
  }, [put])
  const look = LIKELY[study.draft.family ?? ''] ?? 'fall'
  const falls = look === 'fall' || look === 'impact'
  const gates = useGates(study.id, ALONE, falls, passed, again)
  const { setting, rate, size } = gates
  const key = turnKey(turn)
  const clear = useCallback(() => {
    put(NONE)
    setSays({ text: '', more: '' })
  }, [put])
  // biome-ignore lint/correctness/useExhaustiveDependencies: the next turn begins with nothing
  useEffect(() => clear(), [key, clear])
  const measure = firstOf(study.draft)
  const held = useRef({ onReading, counts })
  held.current = { onReading, counts }
  const rateNow = useRef(rate)
  rateNow.current = rate
  const tapeLaid = setting.tape
  useEffect(() => {
    const { first, last } = pair
    if (!first || !last) return
    let live = true
    const { wide, high } = size.current
    const point = (p: { x: number; y: number }) => ({ x: p.x * wide, y: p.y * high })
    const laid = first.place && tapeLaid?.a.says.trim() && tapeLaid.b.says.trim() ? [tapeLaid.a, tapeLaid.b] : []
    const tape = laid.map((n) => ({ where: point(n), at: n.says }))
    const write = (texts: Record<string, string>, quantity: string) => {
      // a time that was tried counts for nothing
      if (!live || !held.current.counts) return
      // the first measure that reads such a quantity, as a gate reads it once
      const place = placesOf(study.draft).find((p) => p.measure.quantity === quantity && texts[p.measure.unit])
      const text = place && texts[place.measure.unit]
      if (place && text) held.current.onReading(place.name, text, { taken: 'camera', stamps: [first.t, last.t], source: 'the camera' })
    }
    const took = last.t - first.t
    const plain = plainTime(took, Math.hypot(first.u, last.u))
    void ask(
      api.POST('/api/studies/{study_id}/gates', {
        params: { path: { study_id: study.id } },
        body: {
          first: { t: first.t, u: first.u },
          last: { t: last.t, u: last.u },
          start: first.place && point(first.place),
          end: last.place && point(last.place),
          tape,
          touch: 1.5,
          rate: Math.max(1, rateNow.current),
        },
        signal: AbortSignal.timeout(4_000),
      }),
    )
      .then((got) => {
        if (!live) return
        setSays({ text: got.found[0]?.text ?? plain, more: got.says[0] ?? '', off: got.says[1] })
        for (const f of got.found) if (f.quantity !== 'length') write(f.texts, f.quantity)
      })
      .catch((why: unknown) => {
        if (!live) return
        const away = !(why instanceof Refusal) || why.away
        setSays({ text: plain.replace(/ s$/, ''), more: away ? '' : why.message })
        // without the server the time is the difference of two moments, written with its unit; the server reads it when it is sent
        write({ [measure.unit]: plain }, 'time')
      })
    return () => {
      live = false
    }
  }, [pair, tapeLaid, size, study, measure])
  const press = (at: number) => passed({ role: { start: true }, t: gates.onPictures(at), u: THUMB_S, between: true, parts: 1, even: false, at, place: null })
  const touch = (at: { x: number; y: number }) => {
    gates.layTape(touched(setting.tape, laying ?? 'a', at))
    setLaying(laying === 'a' ? 'b' : null)
  }
  const [number, half] = says.text.split(' ± ')
  const doubts = [pair.first, pair.last].flatMap((p) => (p ? [p] : []))
  return (
    <section
      aria-label="The camera as a gate"
      className="grid grow content-start gap-x-5 gap-y-3 px-4 pt-3 md:grid-cols-[minmax(0,1fr)_minmax(10.5rem,11.5rem)] md:px-8 md:pt-4"
    >
      <p className="m-0 font-semibold md:hidden">{[turn.group, labelOf(study, turn.level), practice ? 'practice' : nth].filter(Boolean).join(' · ')}</p>
      <div className="min-w-0 md:max-w-[calc((100dvh-19rem)*16/9)]">
        <GatePicture gates={gates} laying={laying} onTouch={touch} />
      </div>
      <div className={`grid content-start gap-3 text-[1rem] md:h-0 md:min-h-full md:overflow-y-auto md:pr-1 ${gates.camera.source ? 'max-md:order-3' : ''}`}>
        <div>
          <p className="m-0 text-quiet">{turn.group || 'Now'}</p>
          <h1 className="big m-0 text-[2rem] leading-tight">{labelOf(study, turn.level)}</h1>
          <p className="m-0 text-quiet">{practice ? 'practice, not counted' : nth}</p>
        </div>
        <div className="h-2 bg-tape" />
        <GateSetUp gates={gates} made={falls ? 'drop' : 'roll'} laying={laying} onLaying={setLaying} />
        <GateTold gates={gates} />
      </div>
      <div className="grid min-w-0 gap-x-8 gap-y-2 max-md:order-1 md:grid-cols-[minmax(0,1.35fr)_minmax(0,1fr)]">
        <SignalStrip gates={gates} marks={marksOf(pair, setting.press)} />
        <div className="min-w-0" data-gate-time>
          <p className="m-0 whitespace-nowrap" role="status">
            <span className="big text-[3.6rem] leading-none md:text-[4.2rem]">{pair.last ? number : pair.first ? '…' : '–'}</span>{' '}
            <span className="big text-[1.4rem] text-quiet">s{half && pair.last ? ` ± ${half}` : ''}</span>
          </p>
          <p className="m-0">
            {pair.last ? says.more : pair.first ? 'It has passed the start.' : says.text && !pair.last && !pair.first ? says.text : 'Nothing has crossed yet.'}
          </p>
          {pair.last && says.off ? <p className="m-0 font-semibold text-doubt">{says.off}</p> : null}
          {pair.last && doubts.some((p) => !p.between) ? (
            <p className="m-0 text-quiet">It went too quickly past a line to be seen on both sides of it: the moment lies somewhere between two pictures.</p>
          ) : null}
          <p className={`m-0 min-h-[1.5rem] ${said.bad ? 'font-semibold text-doubt' : 'text-quiet'}`} role="status" data-says={said.bad || undefined}>
            {said.text || (counts ? (value ? `Written down: ${value}` : '') : 'Tried only: nothing is written down.')}
          </p>
          {setting.press && gates.camera.source && !pair.first ? (
            <button type="button" className="btn btn-act min-h-[72px] w-full" data-press onPointerDown={(e) => press(e.timeStamp)}>
              Release
            </button>
          ) : null}
        </div>
      </div>
      <div className="grid content-start gap-2 max-md:order-2 max-md:grid-cols-2">
        {counts ? (
          <>
            <Big act onClick={onKeep} disabled={!value.trim()} shown="Enter">
              {asked.length ? 'It is what was read' : 'Keep'}
            </Big>
            <Big onClick={onVoid} shown="V">
              Void
            </Big>
            <button
              type="button"
              className="btn btn-plain min-h-[44px]"
              onClick={() => {
                clear()
                onAgain()
              }}
            >
              Again, not kept
            </button>
            <button type="button" className="btn btn-plain min-h-[44px]" onClick={onUndo}>
              Undo <Pressed>Z</Pressed>
            </button>
          </>
        ) : (
          <Big
            act
            disabled={!gates.camera.source}
            onClick={() => {
              clear()
              setCounts(true)
            }}
          >
            It counts now
          </Big>
        )}
        <button type="button" className="btn btn-plain min-h-[44px]" onClick={onClose}>
          Back to the thumb
        </button>
      </div>
    </section>
  )
}

/** Where the found moments stand in the strip of each line that is watched. */
const marksOf = ({ first, last }: Pair, press: boolean): Record<number, number> => {
  const rows: [number, PassedAt | null][] = press
    ? [[0, last]]
    : [
        [0, first],
        [1, last],
      ]
  return Object.fromEntries(rows.flatMap(([row, p]) => (p ? [[row, p.t]] : [])))
}

function Big({
  children,
  act = false,
  disabled = false,
  shown,
  onClick,
}: {
  children: ReactNode
  act?: boolean
  disabled?: boolean
  shown?: string
  onClick: () => void
}) {
  return (
    <button type="button" className={`btn min-h-[64px] justify-between ${act ? 'btn-act' : ''}`} disabled={disabled} onClick={onClick}>
      <span>{children}</span> {shown ? <Pressed>{shown}</Pressed> : null}
    </button>
  )
}
