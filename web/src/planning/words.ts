import type { Draft } from '../data/api'
import { CHOICES, UNITS } from './choices.gen'

/** A way of doing something: how it is stored, what it is called, and what speaks for it. */
type Options<T extends string> = readonly (readonly [T, string, string])[]

export const pairs = <T extends string>(options: Options<T>) => options.map(([id, label]) => [id, label] as const)
export const why = <T extends string>(options: Options<T>, id: T | undefined) => options.find((o) => o[0] === id)?.[2]

/** What can be predicted in short, for a variable of numbers or of names. */
export function expectations(draft: Draft): (readonly [string, string])[] {
  if (draft.variable.kind === 'number') return pairs(CHOICES.expect)
  const none = pairs(CHOICES.expect).filter(([id]) => id === 'none')
  return [...draft.variable.levels.filter((l) => l.trim()).map((l): [string, string] => [l.trim(), `${l.trim()} is best`]), ...none]
}

export const UNIT_OPTIONS = UNITS.map(([q, u]) => [`${q}:${u}`, q === 'count' ? 'a count' : `${q} / ${u}`] as const)
