import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { typed } from '../../../data/keep'
import type { Shot } from '../../../machines/seeing/camera'
import type { Line } from '../../../machines/seeing/gate'
import { type LaidTape, middleOf, type Setting, settingFrom } from '../../../machines/seeing/lines'
import { type Passed, type Role, type Trouble, Watch } from '../../../machines/seeing/watch'
import { type Camera, useCamera } from './useCamera'

/** A crossing with the moment it had by the page's clock, in ms, and where its line lay then (null for one that was pressed). */
export type PassedAt = Passed & { at: number; place: { x: number; y: number } | null }
export type Signals = { t: number; values: number[] }[]
const SHOWN_S = 6
/** A trouble stays told for so long. */
const TOLD_MS = 4_000

export type Gates = {
  camera: Camera
  setting: Setting
  change: (part: Partial<Setting>) => void
  moveLine: (n: number, line: Line) => void
  layTape: (tape: LaidTape | null) => void
  /** Pictures a second as they really come; 0 before that is known. */
  rate: number
  learned: boolean
  troubles: readonly Trouble[]
  /** What each line saw in the last seconds: read when it is drawn. */
  signals: React.RefObject<Signals>
  /** The size in which pictures are looked at. */
  size: React.RefObject<{ wide: number; high: number }>
  /** A moment of the page's clock (ms) on the pictures' own, s. */
  onPictures: (at: number) => number
  relearn: () => void
}

const placeOf = (setting: Setting, role: Role): { x: number; y: number } | null => {
  const found = setting.lines.find((l) => (role.start ? l.role.start : !l.role.start && l.role.lane === role.lane))
  return found ? middleOf(found.line) : null
}

/** The camera with its lines: what crosses one is told. studyId: for which study the lines lie as they do; lanes: of a heat, none for one thing; falls: whether
 *  it goes down, not along. */
export function useGates(studyId: string, lanes: readonly number[], falls: boolean, onPassed: (passed: PassedAt) => void, onAgain: () => void): Gates {
  const key = `gate:${studyId}:${lanes.join('-')}`
  const [setting, setSetting] = useState(() => settingFrom(typed.get(key), lanes, falls))
  const of = lanes.join()
  const [was, setWas] = useState(of)
  if (was !== of) {
    setWas(of)
    setSetting(settingFrom(typed.get(key), lanes, falls))
  }
  const [rate, setRate] = useState(0)
  const [learned, setLearned] = useState(false)
  const [troubles, setTroubles] = useState<readonly Trouble[]>([])
  const signals = useRef<Signals>([])
  const size = useRef({ wide: 480, high: 270 })
  const shift = useRef(0)
  const seen = useRef(new Map<Trouble, number>())
  const drawn = useRef(0)
  const watched = useMemo(() => setting.lines.filter((l) => !(setting.press && l.role.start)), [setting.lines, setting.press])
  const watch = useRef<Watch | null>(null)
  useEffect(() => {
    watch.current = new Watch(watched)
    signals.current = []
    setLearned(false)
  }, [watched])
  useEffect(() => {
    for (let n = 0; n < watched.length; n += 1) watch.current?.threshold(n, setting.threshold)
  }, [watched, setting.threshold])
  const hear = (shot: Shot) => {
    const now = watch.current
    if (!now) return
    if (shot.again) {
      // a made clip begins anew: what it showed before is over
      watch.current = new Watch(
        watched,
        watched.map(() => setting.threshold),
      )
      signals.current = []
      onAgain()
      return
    }
    size.current = { wide: shot.grey.wide, high: shot.grey.high }
    shift.current = shot.t - shot.at / 1000
    const told = now.take(shot.t, shot.grey)
    signals.current = [...signals.current.filter((s) => shot.t - s.t < SHOWN_S), { t: shot.t, values: told.signals }]
    for (const t of told.troubles) seen.current.set(t, shot.at)
    for (const p of told.passed) onPassed({ ...p, at: shot.at + (p.t - shot.t) * 1000, place: placeOf(setting, p.role) })
    if (shot.at - drawn.current < 250) return
    drawn.current = shot.at
    setRate(now.gap ? 1 / now.gap : 0)
    setLearned(told.learned)
    const still = [...seen.current].filter(([, at]) => shot.at - at < TOLD_MS).map(([t]) => t)
    setTroubles((had) => (had.join() === still.join() ? had : still))
  }
  const camera = useCamera(hear)
  const keep = useCallback(
    (next: Setting) => {
      setSetting(next)
      typed.set(key, JSON.stringify(next))
    },
    [key],
  )
  return {
    camera,
    setting,
    change: (part) => keep({ ...setting, ...part }),
    moveLine: (n, line) => keep({ ...setting, lines: setting.lines.map((l, i) => (i === n ? { ...l, line } : l)) }),
    layTape: (tape) => keep({ ...setting, tape }),
    rate,
    learned,
    troubles,
    signals,
    size,
    onPictures: (at) => at / 1000 + shift.current,
    relearn: () => {
      watch.current?.forget()
      setLearned(false)
    },
  }
}
