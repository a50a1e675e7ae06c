/** So many of a kind: "1 trial", "4 trials". The one place in which a noun gets its s. */
export const counted = (n: number, noun: string): string => `${n} ${noun}${n === 1 ? '' : 's'}`
