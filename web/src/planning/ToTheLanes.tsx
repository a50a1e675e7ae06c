import { useState } from 'react'
import type { Study } from '../data/api'
import { Line, Says } from '../parts/parts'
import { lanesOf, tellLanes } from './Stopped'

/** For the teacher: stop every lane at once, call the last trial of each, and say a line to all of them. wide: beside each other. */
export function ToTheLanes({ study, wide = false, children }: { study: Study; wide?: boolean; children?: React.ReactNode }) {
  const [line, setLine] = useState(study.lanes.said)
  const [says, setSays] = useState('')
  const now = lanesOf(study)
  const tell = async (part: Partial<typeof now>) => {
    setSays('')
    try {
      await tellLanes(study.id, { ...now, ...part })
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <section aria-label="To every lane" className={wide ? 'flex flex-wrap items-end gap-3' : 'grid gap-3 border-t-2 border-ink pt-3'}>
      <button
        type="button"
        aria-pressed={now.last}
        className={`btn min-h-[60px] text-[1.1rem] ${now.last ? 'bg-tape text-tape-ink' : wide ? 'btn-act' : ''}`}
        onClick={() => void tell({ last: !now.last })}
      >
        {now.last ? 'Go on after the last trial' : 'Last trial on each lane'}
      </button>
      <button type="button" className="btn min-h-[60px] bg-ink text-[1.1rem] text-floor" onClick={() => void tell({ stopped: !now.stopped })}>
        {now.stopped ? 'Lift the stop' : 'Stop every lane'}
      </button>
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault()
          void tell({ said: line.trim() })
        }}
      >
        <Line label="A line for every lane" value={line} placeholder="Five minutes left." onChange={setLine} />
        <button type="submit" className="btn min-h-[60px]" disabled={line.trim() === study.lanes.said}>
          {line.trim() ? 'Say it' : 'Say nothing more'}
        </button>
      </form>
      {children}
      {says ? <Says>{says}</Says> : null}
    </section>
  )
}
