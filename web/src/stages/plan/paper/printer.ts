import { useSyncExternalStore } from 'react'
import { typed } from '../../../data/keep'

export type PaperName = 'a4' | 'a3' | 'letter' | 'legal' | 'tabloid'
export const PAPERS: readonly (readonly [PaperName, string])[] = [
  ['a4', 'A4'],
  ['a3', 'A3'],
  ['letter', 'Letter'],
  ['legal', 'Legal'],
  ['tabloid', 'Tabloid'],
]

/** How this device prints: its paper, what its edges cannot reach, and what a ruler read of an uncorrected page. line, square: mm. */
export type Printer = { paper: PaperName; margin: number; line: number; square: number }
const USUAL: Printer = { paper: 'a4', margin: 10, line: 100, square: 50 }
const KEY = 'printer'
const heard = new Set<() => void>()

/** What was kept in this browser; what is not there, or is no number, is as usual. */
function read(): Printer {
  const kept = typed.get(KEY)
  if (!kept) return USUAL
  const found = JSON.parse(kept) as Partial<Printer>
  const number = (value: unknown, usual: number) => (typeof value === 'number' && Number.isFinite(value) ? value : usual)
  return {
    paper: PAPERS.some(([id]) => id === found.paper) ? (found.paper as PaperName) : USUAL.paper,
    margin: number(found.margin, USUAL.margin),
    line: number(found.line, USUAL.line),
    square: number(found.square, USUAL.square),
  }
}

let now: Printer | undefined
const snapshot = (): Printer => {
  now ??= read()
  return now
}

export function setPrinter(part: Partial<Printer>): void {
  now = { ...snapshot(), ...part }
  typed.set(KEY, JSON.stringify(now))
  for (const hear of heard) hear()
}

const subscribe = (hear: () => void) => {
  heard.add(hear)
  return () => void heard.delete(hear)
}

/** The printer of this device: measured once, kept in the browser, and used for every template. */
export const usePrinter = (): Printer => useSyncExternalStore(subscribe, snapshot)
