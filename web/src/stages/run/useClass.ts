import { useEffect, useMemo, useRef } from 'react'
import type { Study, Turn } from '../../data/api'
import { isAway, type Screen, screenId, useScreens } from '../../data/screens'
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
    round_trip_s: clock?.trip ?? null,
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

  const presses = told?.presses
  const times = useMemo<PhoneTime[]>(
    () =>
      (presses ?? [])
        .filter((p) => p.fall === fall)
        .map((p) => ({
          label: p.label,
          screen: p.screen_id,
          text: p.seconds === null ? null : inSeconds(p.seconds * 1000),
          clock_s: p.clock_s,
          seconds: p.seconds,
          heard: p.heard,
          lane: told?.screens.find((s) => s.id === p.screen_id)?.lane ?? 0,
        }))
        .sort((a, b) => a.label.localeCompare(b.label, 'en', { numeric: true })),
    [presses, fall, told?.screens],
  )
  const doubts = [mine, ...timers].map((s) => s?.doubt_s ?? null)
  const worst = timers.length && doubts.every((d) => d !== null) ? Math.max(...doubts) : null
  return { screens, timers, times, worst }
}
