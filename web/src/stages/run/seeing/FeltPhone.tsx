import { useCallback, useEffect, useRef, useState } from 'react'
import { Link, useParams } from 'react-router'
import { api, ask, type FoundOut } from '../../../data/api'
import { typed } from '../../../data/keep'
import { useMe, useStudy } from '../../../data/queries'
import { useLive } from '../../../data/live'
import { Feeling, type FeltLog } from '../../../machines/felt'
import { stayAwake } from '../../../machines/seeing/camera'
import { NotOpened } from '../../../parts/NotOpened'
import { Skeleton, Tick, Told } from '../../../parts/parts'

type Telling = { found: readonly FoundOut[]; says: readonly string[]; rate: number; heard: boolean; told: readonly string[] }
/** Some devices ask before their sensor may be read. */
type Asking = { requestPermission?: () => Promise<'granted' | 'denied'> }

/** A phone that lies in the carrier: it logs what it feels, and its fall goes to the lane. */
export function FeltPhone() {
  const { id = '' } = useParams()
  useLive(id)
  const study = useStudy(id, true)
  const label = useMe().data?.seat?.label ?? 'This phone'
  const [careful, setCareful] = useState(false)
  const [on, setOn] = useState(false)
  const [rate, setRate] = useState(0)
  const [says, setSays] = useState('')
  const [telling, setTelling] = useState<Telling | null>(null)
  const [feeling] = useState(() => new Feeling())
  const number = useRef(1 + Math.floor((Date.now() / 1000) % 90_000)) // a page that is opened anew counts on
  const send = useCallback(
    async (log: FeltLog) => {
      setOn(false)
      setSays('')
      number.current += 1
      try {
        const body = { log, number: number.current, lane: Number(typed.get(`times:${id}`)) || 0 }
        setTelling(await ask(api.POST('/api/studies/{study_id}/felt', { params: { path: { study_id: id } }, body })))
      } catch (why) {
        setTelling(null)
        setSays(why instanceof Error ? why.message : String(why))
      }
    },
    [id],
  )
  useEffect(() => {
    if (!on) return
    feeling.clear()
    const sleep = stayAwake() // a phone that sleeps feels nothing
    let gone = false
    const feel = (e: DeviceMotionEvent) => {
      const a = e.accelerationIncludingGravity
      if (a?.x == null || a.y == null || a.z == null) return
      feeling.take(e.timeStamp / 1000, a.x, a.y, a.z)
      setRate(feeling.rate)
      if (!feeling.landed || gone) return
      gone = true // one landing is told once, however many values still come
      void send(feeling.log)
    }
    window.addEventListener('devicemotion', feel)
    const quiet = setTimeout(() => {
      if (feeling.rate) return
      setOn(false)
      setSays('This device tells no acceleration here. It needs a phone with a sensor, and this page on https. A made log can be tried.')
    }, 3_000)
    return () => {
      clearTimeout(quiet)
      sleep()
      window.removeEventListener('devicemotion', feel)
    }
  }, [on, feeling, send])
  const start = async () => {
    setTelling(null)
    setSays('')
    const asking = (globalThis as { DeviceMotionEvent?: Asking }).DeviceMotionEvent
    try {
      if (asking?.requestPermission && (await asking.requestPermission()) !== 'granted') throw new Error('The sensor was not allowed. Allow it in the browser.')
      setRate(0)
      setOn(true)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  const made = async () => {
    try {
      await send(await ask(api.GET('/api/made-log')))
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  useEffect(() => {
    document.title = `${label} – Bendro`
  }, [label])
  if (study.isLoadingError) return <NotOpened error={study.error} again={() => void study.refetch()} />
  if (!study.data) return <Skeleton lines={4} />
  return (
    <main className="mx-auto flex min-h-dvh w-full max-w-[34rem] flex-col gap-4 px-5 py-4" data-felt={on ? 'on' : 'off'}>
      <div className="flex items-baseline justify-between gap-4">
        <h1 className="big m-0 text-[1.7rem]">{label} in the carrier</h1>
        <p className="m-0 text-quiet">{study.data.title}</p>
      </div>
      <section aria-label="Cautions" className="border-t-2 border-ink pt-2">
        <p className="m-0">
          A padded mock phone of the same mass goes first: this one only after it came through the same drop whole. In a case, padded on all sides, over an
          empty drop zone. Nothing with a cracked glass or a swollen battery, and nothing that must not break: glass and expensive phones stay out. The school’s
          own risk assessment and rules decide.
        </p>
        <Tick checked={careful} onChange={setCareful}>
          A mock phone came through, and the adult in charge agrees
        </Tick>
      </section>
      <Told says={says} />
      {on ? (
        <>
          <p className="big m-0 text-[2.2rem]" role="status">
            {rate ? `It feels ${Math.round(rate)} times a second.` : 'It begins to feel …'}
          </p>
          <p className="m-0 text-quiet">Lay it in the carrier, wait a moment, let it fall. After the landing it tells the lane by itself.</p>
          <button type="button" className="btn min-h-[72px]" onClick={() => void send(feeling.log)}>
            It has landed
          </button>
        </>
      ) : (
        <>
          <button type="button" className="btn btn-act big min-h-[28dvh] text-[2rem]" disabled={!careful} onClick={() => void start()}>
            Begin to feel
          </button>
          <button type="button" className="btn btn-plain justify-self-start" onClick={() => void made()}>
            Try it with a made drop
          </button>
        </>
      )}
      {telling ? (
        <section aria-label="What it felt" className="border-t-2 border-ink pt-2" data-telling>
          <ul className="m-0 list-none p-0">
            {telling.found.map((f) => (
              <li key={f.id} className="hair py-1.5">
                <span className="inline-block first-letter:uppercase">{f.name}</span>{' '}
                <strong className="big text-[1.3rem]">
                  {f.text} {f.unit}
                </strong>
              </li>
            ))}
          </ul>
          {telling.says.map((s) => (
            <p key={s} className="m-0 mt-1">
              {s}
            </p>
          ))}
          <p className="m-0 mt-1 text-quiet">The sensor told {Math.round(telling.rate)} times a second.</p>
          <p className="m-0 mt-1 font-semibold" role="status">
            {telling.heard ? telling.told.join(' ') : 'No lane listens. At the lane, open Instruments under Other ways and listen, then send it again.'}
          </p>
        </section>
      ) : null}
      <Link className="btn btn-plain mt-auto self-start px-0" to={`/study/${id}/time`}>
        Back to timing
      </Link>
    </main>
  )
}
