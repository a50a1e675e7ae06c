import { useEffect, useState } from 'react'
import { api, ask, type Study } from '../data/api'
import { anew, client } from '../data/queries'
import { Says } from '../parts/parts'

type Lanes = { stopped: boolean; said: string; last: boolean }
export const lanesOf = (study: Study): Lanes => ({ stopped: Boolean(study.lanes.stopped), said: study.lanes.said ?? '', last: Boolean(study.lanes.last_from) })

/** Tell every lane: shown here at once, and on every open screen as soon as it is told. */
export async function tellLanes(study: string, lanes: Lanes): Promise<void> {
  const now = (await ask(api.PUT('/api/studies/{study_id}/lanes', { params: { path: { study_id: study } }, body: lanes }))) as Study['lanes']
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
      await tellLanes(study.id, { ...lanesOf(study), stopped: false })
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
