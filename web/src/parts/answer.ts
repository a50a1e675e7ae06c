/** A verdict's answer in a word or two, wherever it is shown. */
export const ANSWER = { clear: 'Clear', leaning: 'Leaning, not settled', cannot_tell: 'Cannot tell yet' } as const
