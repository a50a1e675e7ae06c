import { useMemo } from 'react'
import { fillers } from '../machines/drops'
import type { SeenTrial } from '../machines/turns'
import type { Study, Trial, TrialBody } from './api'
import { useQueue } from './useQueue'

/** The server's trials with what still waits in this browser laid over them, in the order of release. */
export function useTrialsSeen(study: Study, stored: readonly Trial[]): SeenTrial[] {
  const { waiting } = useQueue()
  return useMemo(() => {
    const seen = new Map<string, SeenTrial>()
    for (const t of stored) seen.set(t.id, { ...t, saved: 'yes' })
    for (const w of waiting) {
      if (w.kind !== 'trial' || w.studyId !== study.id) continue
      const body = w.body as TrialBody
      const known = seen.get(w.id)
      if (known && known.saved === 'yes' && known.revision >= (body.revision ?? 1)) continue
      const stands = known?.place === 'outside' && !body.placed ? 'outside' : body.practice ? 'practice' : 'turn'
      seen.set(w.id, {
        id: w.id,
        block: body.block,
        level: body.level,
        group: body.group ?? '',
        person: body.person ?? '',
        device: body.device ?? '',
        version: body.version ?? null,
        specimen: body.specimen ?? '',
        rung: body.rung ?? '',
        practice: body.practice ?? false,
        conditions: body.conditions ?? {},
        heat: body.heat ?? '',
        answered: body.answered ?? [],
        derived: [],
        given: [],
        readings: (body.readings ?? []).map((r) => ({
          measure: r.measure,
          payload: r.payload ?? 1,
          texts: r.texts ?? [],
          unit: r.unit ?? '',
          taken: r.taken ?? 'typed',
          stamps: r.stamps ?? [],
          source: r.source ?? '',
          clock_s: r.clock_s ?? 0,
          reading: null,
          words: [],
        })),
        number: known?.number ?? 0,
        place: stands,
        why: known?.why ?? '',
        clock_off_s: 0,
        state: body.state ?? 'kept',
        fault: body.fault ?? '',
        note: body.note ?? '',
        released_at: known?.released_at ?? new Date(Date.parse(body.released_at) - (body.clock_ahead_s ?? 0) * 1000).toISOString(),
        kept_by: known?.kept_by ?? body.kept_by ?? '',
        revision: body.revision ?? 1,
        saved: w.refused ? 'refused' : 'waiting',
        ...(w.refused ? { says: w.refused } : {}),
      })
    }
    const inOrder = [...seen.values()]
      .filter((t) => t.state !== 'withdrawn')
      .sort((a, b) => Date.parse(a.released_at) - Date.parse(b.released_at) || (a.id < b.id ? -1 : 1))
    return fillers(study, inOrder)
  }, [study, stored, waiting])
}
