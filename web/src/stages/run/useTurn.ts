import { useCallback, useState } from 'react'
import type { Study, Turn } from '../../data/api'
import { typed } from '../../data/keep'
import { deviceClock } from '../../machines/deviceClock'
import { turnKey } from '../../machines/turns'
import { entryKey } from './useEntry'

/** The turn in hand: the one that was chosen, or the next that is left and that no other screen calls (`free`); or the one that something is typed or timed for, whatever comes
 *  before it meanwhile: what was typed stays in sight, and kept when another screen has filled the turn (`taken`) it becomes a further
 *  trial of it. A turn that is skipped waits behind the others until it is chosen or they are done. going: the turn that was timed when the page was left. */
export function useTurn(study: Study, left: readonly Turn[], free: readonly Turn[], running: boolean, going?: string) {
  const [held, hold] = useState<Turn | undefined>(() => study.turns.find((t) => turnKey(t) === going))
  const [chosen, goTo] = useState<Turn>()
  const [skipped, setSkipped] = useState<readonly string[]>([])
  const written = held !== undefined && (running || typed.get(entryKey(study.id, turnKey(held), '0')).trim() !== '')
  const next = free.find((t) => !skipped.includes(turnKey(t))) ?? free[0]
  const turn = written && !(chosen && turnKey(chosen) !== turnKey(held)) ? held : (chosen ?? next)
  if (turn && (!held || turnKey(turn) !== turnKey(held))) hold(turn)
  const skip = useCallback(() => {
    if (!turn) return
    goTo(undefined)
    setSkipped((s) => [...s.filter((k) => k !== turnKey(turn)), turnKey(turn)])
  }, [turn])
  const filled = turn !== undefined && !left.some((t) => turnKey(t) === turnKey(turn))
  return { turn, taken: written && filled && chosen === undefined, goTo, skip }
}

/** Which lane this screen calls, 0 for all; where several are open at once each can have a screen of its own. */
export function useLaneChoice(study: Study): [number, (lane: number) => void] {
  const key = `lane:${study.id}`
  const [lane, set] = useState(() => Number(typed.get(key)) || 0)
  const most = Math.max(1, ...study.turns.map((t) => t.lane))
  return [
    lane > most ? 0 : lane,
    (n) => {
      typed.set(key, n ? String(n) : '')
      set(n)
    },
  ]
}

/** Why a screen calls nothing for now. */
export type Halt = 'shut' | 'last'

/** The turns of this screen's lane, and whether it calls any now: its lane is shut, or its last trial was let go. What a shut lane has left, the
 *  open ones call after their own. lastGiven: when this screen let go of a trial last, by the server's clock. */
export function laneNow(study: Study, left: readonly Turn[], lane: number, role: string, lastGiven: number): { mine: readonly Turn[]; halted: Halt | null } {
  const { shut = {}, last_from } = study.lanes
  const isShut = (n: number) => shut[String(n)] !== undefined
  if (last_from && lastGiven > Date.parse(last_from)) return { mine: left, halted: 'last' }
  if (lane !== 0) {
    const own = left.filter((t) => t.lane === lane)
    return isShut(lane) ? { mine: own, halted: 'shut' } : { mine: [...own, ...left.filter((t) => t.lane !== lane && isShut(t.lane))], halted: null }
  }
  // a group goes to another lane where its own is shut; whoever runs all lanes calls what is to be called
  const open = left.filter((t) => !isShut(t.lane))
  return role === 'group' && left.length > 0 && !open.length
    ? { mine: left, halted: 'shut' }
    : { mine: [...open, ...left.filter((t) => isShut(t.lane))], halted: null }
}

/** When this screen let go of a trial last, by the server's clock; kept for this browser. */
export function useLastGiven(study: string): [number, () => void] {
  const key = `given:${study}`
  const [at, set] = useState(() => Number(typed.get(key)) || 0)
  return [
    at,
    useCallback(() => {
      const now = deviceClock.serverNow()
      typed.set(key, String(now))
      set(now)
    }, [key]),
  ]
}
