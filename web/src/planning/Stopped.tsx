import { useEffect, useState } from 'react'
import { api, ask, type Study } from '../data/api'
import { anew, client } from '../data/queries'
import { Line, Says } from '../parts/parts'

type Lanes = Study['lanes']

/** Tell every lane: shown here at once, and on every open screen as soon as it is told. */
export async function tellLanes(study: string, lanes: Lanes): Promise<void> {
  const now = (await ask(api.PUT('/api/studies/{study_id}/lanes', { params: { path: { study_id: study } }, body: lanes }))) as Lanes
  client.setQueryData<Study>(['study', study], (known) => known && { ...known, lanes: now })
  void anew(['study', study])
}

/** Every lane stands still: nothing below can be pressed, by finger or by key, until the teacher lifts it. */
export function Stopped({ study, lifts }: { study: Study; lifts: boolean }) {
  const [says, setSays] = useState('')
  useEffect(() => {
    const hold = (e: KeyboardEvent) => {
      if (e.key === 'Tab' || (e.target instanceof HTMLElement && e.target.closest('[data-stopped]'))) return
      e.preventDefault()
      e.stopImmediatePropagation()
    }
    window.addEventListener('keydown', hold, true)
    return () => window.removeEventListener('keydown', hold, true)
  }, [])
  const lift = async () => {
    try {
      await tellLanes(study.id, { stopped: false, said: study.lanes.said })
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <div
      role="alertdialog"
      aria-modal="true"
      aria-labelledby="stop-word"
      aria-describedby="stop-says"
      data-stopped
      className="fixed inset-0 z-50 grid content-center justify-items-center gap-6 border-[24px] border-tape bg-[#111918] p-6 text-center text-white"
    >
      <h1 id="stop-word" className="big m-0 text-[clamp(7rem,28vw,22rem)] leading-[0.85] text-white">
        STOP
      </h1>
      <p id="stop-says" className="m-0 max-w-[34ch] text-[clamp(1.3rem,3vw,2.2rem)]">
        {study.lanes.said || 'Hold everything and look at the teacher. Nothing is released.'}
      </p>
      {lifts ? (
        <button type="button" className="btn min-h-[72px] border-white bg-white px-8 text-[1.4rem] text-[#111918]" onClick={() => void lift()}>
          Lift the stop
        </button>
      ) : null}
      {says ? <Says>{says}</Says> : null}
    </div>
  )
}

/** For the teacher: stop every lane at once, and say a line to all of them. */
export function ToTheLanes({ study }: { study: Study }) {
  const [line, setLine] = useState(study.lanes.said)
  const [says, setSays] = useState('')
  const tell = async (lanes: Lanes) => {
    setSays('')
    try {
      await tellLanes(study.id, lanes)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <section aria-label="To every lane" className="grid gap-3 border-t-2 border-ink pt-3">
      <button
        type="button"
        className="btn min-h-[72px] bg-ink text-[1.6rem] text-floor"
        onClick={() => void tell({ stopped: !study.lanes.stopped, said: study.lanes.said })}
      >
        {study.lanes.stopped ? 'Lift the stop' : 'Stop every lane'}
      </button>
      <Line label="A line for every lane" value={line} placeholder="Last trial on each lane" onChange={setLine} />
      <div className="flex flex-wrap gap-3">
        <button
          type="button"
          className="btn"
          disabled={line.trim() === study.lanes.said}
          onClick={() => void tell({ stopped: study.lanes.stopped, said: line.trim() })}
        >
          {line.trim() ? 'Say it' : 'Say nothing more'}
        </button>
        <button type="button" className="btn btn-plain" onClick={() => void tell({ stopped: study.lanes.stopped, said: 'Last trial on each lane.' })}>
          Last trial on each lane
        </button>
      </div>
      {says ? <Says>{says}</Says> : null}
    </section>
  )
}
