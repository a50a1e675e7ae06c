/** Whether the server said, since the last sign-in, that nobody is signed in here any more. */
let out = false
const heard = new Set<() => void>()

export const signedOut = {
  get: (): boolean => out,
  set: (now: boolean): void => {
    if (now === out) return
    out = now
    for (const hear of heard) hear()
  },
  subscribe: (hear: () => void): (() => void) => {
    heard.add(hear)
    return () => heard.delete(hear)
  },
}
