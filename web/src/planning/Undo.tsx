import { useState } from 'react'
import type { Study } from '../data/api'
import { undoPlan } from '../data/usePlan'
import { Says } from '../parts/parts'
import { Record_ } from './Record'

/** Take back the last change to the plan, whatever page made it; and the record of all of them. */
export function Undo({ study }: { study: Study }) {
  const [says, setSays] = useState('')
  const [open, setOpen] = useState(false)
  const undo = async () => {
    try {
      await undoPlan(study)
      setSays('The last change is undone.')
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <div className="no-print">
      <div className="flex flex-wrap gap-x-4">
        <button type="button" className="btn btn-plain" onClick={() => void undo()}>
          Undo the last change
        </button>
        <button type="button" className="btn btn-plain" onClick={() => setOpen(true)}>
          What was changed
        </button>
      </div>
      <div role="status">{says ? <Says>{says}</Says> : null}</div>
      <Record_ study={study} open={open} onClose={() => setOpen(false)} />
    </div>
  )
}
