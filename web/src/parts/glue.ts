/** A number and what may be its unit: up to three letters, or a quotient such as m/s². A short word that is none may stay with its number too. */
const BEFORE_A_UNIT = /(\d) (?=(?:[^\s\d.,;:?!()]{1,3}|[^\s\d.,;:?!()]*[/·][^\s.,;:?!()]*)(?:[\s.,;:?!()]|$))/g

/** A sentence of the core as it is shown: a number and its unit never part at the end of a line. */
export const glued = (text: string | null | undefined): string => (text ?? '').replace(BEFORE_A_UNIT, '$1\u00a0')
