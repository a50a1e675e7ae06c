import { useState } from 'react'
import { api, ask, type Study } from '../../data/api'
import { isAway, type Screen, screenId } from '../../data/screens'
import { Says, Sheet } from '../../parts/parts'

/** Another device takes this lane over, with what is half typed. */
export function HandSheet({
  study,
  screens,
  onClose,
  onHanded,
}: {
  study: Study
  screens: readonly Screen[]
  onClose: () => void
  onHanded: (says: string) => void
}) {
  const [says, setSays] = useState('')
  const others = screens.filter((s) => s.id !== screenId && !isAway(s) && s.role !== 'wall' && s.role !== 'timer')
  const hand = async (to: string | null, whom: string) => {
    try {
      await ask(api.POST('/api/studies/{study_id}/screens/{screen_id}/hand', { params: { path: { study_id: study.id, screen_id: screenId } }, body: { to } }))
      onHanded(`Handed to ${whom}.`)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <Sheet open onClose={onClose} title="Hand this lane on">
      <div className="grid gap-3">
        <p className="m-0">The turn that is called here goes to the other device, with what is half typed.</p>
        {others.map((s) => (
          <button key={s.id} type="button" className="btn min-h-[64px] justify-start text-[1.2rem]" onClick={() => void hand(s.id, s.label)}>
            {s.label}
            {s.lane ? `, lane ${s.lane}` : ''}
          </button>
        ))}
        {others.length ? null : <p className="m-0 text-quiet">No other device runs a lane just now. It has to be in, with the run open on it.</p>}
        <button type="button" className="btn" onClick={() => void hand(null, 'whoever is next')}>
          To whoever is next
        </button>
        {says ? <Says>{says}</Says> : null}
      </div>
    </Sheet>
  )
}
