import { useLayoutEffect, useRef } from 'react'
import type { Open } from './LaneButtons'

export type LaneActs = {
  sheet: Open
  setSheet: (sheet: Open) => void
  timed: boolean
  /** Whether the camera is the gate: there is no field, and Enter keeps. */
  gating: boolean
  /** Whether the first measure is an outcome in words. */
  words: boolean
  running: () => boolean
  press: (at: number) => void
  lap: (at: number) => void
  undo: () => void
  skip: () => void
  enter: () => void
  pickOutcome: (n: number) => void
  practise: () => void
}

/** The keys of the lane. While a field holds text, a letter is text; what a key means depends on what is open. */
export function useLaneKeys(acts: LaneActs): void {
  const now = useRef(acts)
  // before the next key can come
  useLayoutEffect(() => {
    now.current = acts
  })
  useLayoutEffect(() => {
    const hear = (e: KeyboardEvent) => {
      const act = actOf(e, now.current)
      if (!act) return
      e.preventDefault()
      act()
    }
    window.addEventListener('keydown', hear)
    return () => window.removeEventListener('keydown', hear)
  }, [])
}

function actOf(e: KeyboardEvent, a: LaneActs): (() => void) | null {
  const counting = a.sheet === 'count' && e.key === ' '
  if ((a.sheet !== 'none' && !counting) || e.ctrlKey || e.metaKey || document.querySelector('[role=dialog], [role=menu]')) return null
  const input = e.target instanceof HTMLInputElement ? e.target : null
  if (e.target instanceof HTMLSelectElement) return null
  const button = e.target instanceof HTMLButtonElement ? e.target : null
  if (a.words && !input && e.key === 'Enter' && !(button && !button.dataset.outcome)) return a.enter
  // a choice pressed with a mouse or thumb is not pressed again by Enter: it keeps
  if (e.key === 'Enter' && button?.hasAttribute('aria-pressed') && !button.matches(':focus-visible')) return a.enter
  if (a.gating && e.key === 'Enter' && !input && !button) return a.enter
  if (!input && !a.gating && /^[\d.,~<>≥≤½¼¾]$/.test(e.key) && !(a.words && /^[1-9]$/.test(e.key))) {
    document.getElementById('timer-0')?.focus() // the digit itself then goes into the field
    return null
  }
  if (input && input.value !== '') return null
  if (e.key === ' ' && a.timed && !(button && !button.dataset.press))
    return () => {
      a.setSheet('none')
      if (!e.repeat) a.press(e.timeStamp)
    }
  if (a.words && /^[1-9]$/.test(e.key)) return () => a.pickOutcome(Number(e.key))
  return byLetter(e, a)
}

function byLetter(e: KeyboardEvent, a: LaneActs): (() => void) | null {
  switch (e.key.toLowerCase()) {
    case 'v':
      return () => a.setSheet('fault')
    case 'z':
      return a.undo
    case 'p':
      return a.practise
    case 'n':
      return () => a.setSheet('now')
    case 'd':
      return () => a.setSheet('count')
    case '?':
      return () => a.setSheet('keys')
    case 's':
      return a.running() ? null : a.skip
    case 'l':
      return a.timed && a.running() ? () => (e.repeat ? undefined : a.lap(e.timeStamp)) : null
    default:
      return null
  }
}
