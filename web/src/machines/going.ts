/** A timing that runs outlives a reload and a look at another page: kept for this tab from its release on. turns: what was let go; from: the
 *  release, and passed: marks or landings by their name, in milliseconds of this page's own clock. */
export type Going = { turns: readonly string[]; from: number; passed: Readonly<Record<string, number>>; practice: boolean }

/** What began longer ago was forgotten, not timed. */
const MOST_MS = 15 * 60_000
const key = (studyId: string): string => `going:${studyId}`
/** Where the tab keeps nothing, as long as the page is open. */
const here = new Map<string, string>()

/** Each page counts from its own beginning; between them goes the time since 1970 by the same steady clock. */
const moved = (g: Going, by: number): Going => ({
  ...g,
  from: g.from + by,
  passed: Object.fromEntries(Object.entries(g.passed).map(([k, at]) => [k, at + by])),
})

export const going = {
  get: (studyId: string): Going | null => {
    let text: string | null = here.get(key(studyId)) ?? null
    try {
      text = sessionStorage.getItem(key(studyId)) ?? text
    } catch {
      // a tab that keeps nothing: what this page holds is all there is
    }
    if (!text) return null
    const found = moved(JSON.parse(text) as Going, -performance.timeOrigin)
    return performance.now() - found.from < MOST_MS ? found : null
  },
  set: (studyId: string, now: Going | null): void => {
    const text = now && JSON.stringify(moved(now, performance.timeOrigin))
    if (text) here.set(key(studyId), text)
    else here.delete(key(studyId))
    try {
      if (text) sessionStorage.setItem(key(studyId), text)
      else sessionStorage.removeItem(key(studyId))
    } catch {
      return // it stays in this page
    }
  },
}
