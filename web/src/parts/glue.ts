import { UNITS } from '../planning/choices.gen'

const WORDS = [...new Set([...UNITS.map(([, unit]) => unit), 'ms', '%', 'm/s²', 'N', 'J', 'W'])]
const BEFORE_A_UNIT = new RegExp(`(\\d) (?=(?:${WORDS.map((unit) => unit.replace(/[/.]/g, '\\$&')).join('|')})(?![\\w/]))`, 'g')

/** A sentence of the core as it is shown: a number and its unit never part at the end of a line. */
export function glued(text: string): string
export function glued(text: string | null | undefined): string | null | undefined
export function glued(text: string | null | undefined) {
  return text?.replace(BEFORE_A_UNIT, '$1\u00a0')
}
