import { useCallback, useState } from 'react'
import type { Study, Turn } from '../../data/api'
import { typed } from '../../data/keep'
import { turnKey } from '../../machines/turns'
import { entryKey } from './useEntry'

/** The turn in hand: the one that was chosen, or the next that is left; or the one that something is typed or timed for, whatever comes
 *  before it meanwhile: what was typed stays in sight, and kept when another screen has filled the turn (`taken`) it becomes a further
 *  trial of it. A turn that is skipped waits behind the others until it is chosen or they are done. going: the turn that was timed when the page was left. */
export function useTurn(study: Study, left: readonly Turn[], running: boolean, going?: string) {
  const [held, hold] = useState<Turn | undefined>(() => study.turns.find((t) => turnKey(t) === going))
  const [chosen, goTo] = useState<Turn>()
  const [skipped, setSkipped] = useState<readonly string[]>([])
  const written = held !== undefined && (running || typed.get(entryKey(study.id, turnKey(held), '0')).trim() !== '')
  const next = left.find((t) => !skipped.includes(turnKey(t))) ?? left[0]
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
