import { useCallback } from 'react'
import { v4 as uuid } from 'uuid'
import type { Study, TrialBody, Turn } from '../../data/api'
import { useVersions } from '../../data/queries'
import { deviceClock, nextOfTablet } from '../../machines/deviceClock'
import { queue } from '../../machines/saveQueue'
import { deviceOf, type Now } from './useNow'

/** By how much this device's clock is ahead, as it is sent with a trial. */
const aheadInSeconds = (): number | null => {
  const ahead = deviceClock.aheadMs()
  return ahead === null ? null : ahead / 1000
}

/** Hand a trial of a turn to the queue, with all that holds at the lane now. Gives its identity. */
export function useGive(study: Study, now: Now, practice: boolean, rungOf: (turn: Turn) => number | null) {
  const versions = useVersions(study.id).data
  return useCallback(
    (t: Turn, part: Partial<TrialBody>, id: string = uuid()): string => {
      const own = deviceOf(study, versions ?? [], t)
      const rung = rungOf(t)
      const body: TrialBody = {
        block: t.block,
        level: t.level,
        group: t.group,
        person: now.person,
        device: own.device,
        version: now.versions[own.device] ?? own.version,
        specimen: rung === null ? '' : `number ${t.block}`,
        rung: rung === null ? '' : String(rung),
        practice,
        readings: [],
        conditions: now.conditions,
        heat: '',
        answered: [],
        state: 'kept',
        fault: '',
        note: '',
        placed: false,
        plan_version: study.version,
        released_at: new Date().toISOString(),
        clock_ahead_s: aheadInSeconds(),
        ...nextOfTablet(),
        kept_by: '',
        revision: 1,
        ...part,
      }
      void queue.add({ kind: 'trial', studyId: study.id, title: study.title, id, body })
      return id
    },
    [study, versions, now, practice, rungOf],
  )
}
