import type { Answer } from '../machines/typing'
import { Refusal } from './api'

/** What became of something that was sent: stored, or the way in which it was refused. clash: the code that means that someone
 *  else changed it meanwhile, and how their side is read from the facts. */
export async function sent<T>(
  store: () => Promise<number>,
  clash: { code: string; theirs: (facts: Record<string, unknown>) => { draft: T; version: number } },
): Promise<Answer<T>> {
  try {
    return { kind: 'stored', version: await store() }
  } catch (why) {
    if (!(why instanceof Refusal)) throw why
    if (why.code === clash.code) return { kind: 'clash', says: why.message, theirs: clash.theirs(why.facts) }
    if (why.away) return { kind: 'away', says: `${why.message} What is written stays in this browser.`, where: null }
    return { kind: 'refused', says: why.message, where: why.where?.replace(/^draft\./, '') ?? null }
  }
}
