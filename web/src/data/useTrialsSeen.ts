import { useMemo } from 'react'
import type { Trial, TrialBody } from './api'
import type { SeenTrial } from '../machines/turns'
import { useQueue } from './useQueue'

/** The server's trials with what still waits in this browser laid over them, in the order of release. */
export function useTrialsSeen(studyId: string, stored: readonly Trial[]): SeenTrial[] {
  const { waiting } = useQueue()
  return useMemo(() => {
    const seen = new Map<string, SeenTrial>()
    for (const t of stored) seen.set(t.id, { ...t, saved: 'yes' })
    for (const w of waiting) {
      if (w.kind !== 'trial' || w.studyId !== studyId) continue
      const body = w.body as TrialBody
      const known = seen.get(w.id)
      if (known && known.saved === 'yes' && known.revision >= (body.revision ?? 1)) continue
      seen.set(w.id, {
        id: w.id, block: body.block, level: body.level, group: body.group ?? '', person: body.person ?? '', device: body.device ?? '', texts: body.texts ?? [], unit: body.unit,
        also_text: body.also_text ?? '', also_unit: body.also_unit ?? '', number: known?.number ?? 0, place: known?.place === 'outside' && !body.placed ? 'outside' : 'turn', why: known?.why ?? '',
        behaviour: body.behaviour ?? '', state: body.state ?? 'kept', fault: body.fault ?? '', note: body.note ?? '', released_at: body.released_at,
        revision: body.revision ?? 1, reading: null, saved: w.refused ? 'refused' : 'waiting', ...(w.refused ? { says: w.refused } : {}),
      })
    }
    return [...seen.values()].filter((t) => t.state !== 'withdrawn').sort((a, b) => Date.parse(a.released_at) - Date.parse(b.released_at) || (a.id < b.id ? -1 : 1))
  }, [studyId, stored, waiting])
}
