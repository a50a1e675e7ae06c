import { useEffect, useMemo, useRef } from 'react'
import type { Study, Turn } from '../../data/api'
import { isAway, type Press, type Screen, screenId, useScreens } from '../../data/screens'
import { type Here, useHere } from '../../data/teller'
import { useClock } from '../../data/useClock'
import { useQueue } from '../../data/useQueue'
import { inSeconds, type RunNow } from '../../machines/trialRun'
import type { PhoneTime } from './phonesGave'

export type OfLane = {
  study: Study
  lane: number
  turns: readonly Turn[]
  now: RunNow
  half: Readonly<Record<string, string>>
  onHanded: (mine: Screen) => void
  /** Under which further phones tell their times of the trial in hand. */
  fall: string
}

/** Tells the class what this lane does, and hears what further phones time of it. handed: told of a turn that was handed over. */
export function useClass({ study, lane, turns, now, half, fall, onHanded }: OfLane) {
  const told = useScreens(study.id).data
  const screens = told?.screens ?? []
  const { waiting } = useQueue()
  const holds = waiting.filter((w) => w.kind === 'trial' && w.studyId === study.id).length
  const from = now.from
  const timers = screens.filter(
    (s) => s.role === 'timer' && (s.doing === 'ready' || s.doing === 'timing') && !isAway(s) && (s.lane === 0 || s.lane === lane || lane === 0),
  )
  const clock = useClock(study.id, timers.length > 0)
  const here: Here = {
    lane,
    doing: now.state === 'timing' ? 'falling' : now.state === 'asked' ? 'asked' : turns.length ? 'calling' : 'looking',
    turns: turns.map((t) => ({ block: t.block, level: t.level })),
    half: Object.fromEntries(Object.entries(half).flatMap(([k, v]) => (v.trim() ? [[k.slice(0, 40), v.trim().slice(0, 120)]] : []))),
    holds,
    fall: from === null ? null : fall,
    released_at: from === null || !clock ? null : from / 1000 + clock.ahead,
    doubt_s: from === null || !clock ? null : Math.min(10, clock.doubt),
  }
  useHere(study.id, here)

  const mine = screens.find((s) => s.id === screenId)
  const since = useRef('')
  const hear = useRef(onHanded)
  hear.current = onHanded
  useEffect(() => {
    if (!mine?.handed || since.current === mine.since + mine.handed) return
    since.current = mine.since + mine.handed
    hear.current(mine)
  }, [mine])

  const ahead = clock?.ahead
  const doubt = clock?.doubt ?? 0
  const presses = told?.presses
  const times = useMemo<PhoneTime[]>(() => {
    if (from === null || !presses) return []
    return presses
      .filter((p) => p.fall === fall)
      .map((p) => timeOf(p, ahead === undefined ? null : from / 1000 + ahead, doubt))
      .sort((a, b) => a.label.localeCompare(b.label, 'en', { numeric: true }))
  }, [presses, fall, from, ahead, doubt])
  const worst = timers.length && clock ? Math.max(clock.doubt, ...timers.map((t) => t.doubt_s ?? 0)) : null
  return { screens, timers, times, worst }
}

/** From the release at the lane, or the phone's own, to its landing. */
function timeOf(p: Press, released: number | null, doubt: number): PhoneTime {
  const own = p.released_at !== null
  const from = own ? p.released_at : released
  const s = p.landed_at === null || from === null ? null : p.landed_at - from
  return { label: p.label, screen: p.screen_id, text: s !== null && s > 0 ? inSeconds(s * 1000) : null, clock_s: own ? 0 : Math.hypot(p.doubt_s, doubt) }
}
