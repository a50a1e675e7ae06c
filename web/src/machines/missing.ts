import type { Draft, ReadingGiven } from '../data/api'
import { firstOf, payloadsOf, scaleOf } from '../data/measures'

/** What is missing before a trial can be kept, while the server may be away; "" where nothing is: the rule of core/measuring/missing.py, held to it
 *  by shared cases (tests/drift/missing_cases.json). */
export function missing(draft: Draft, readings: readonly ReadingGiven[]): string {
  const measure = firstOf(draft)
  const written = new Set(readings.filter((r) => r.measure === measure.id && (r.texts ?? []).some((t) => t.trim())).map((r) => r.payload ?? 1))
  if (written.size >= payloadsOf(draft, measure).length) return ''
  if (written.size) return 'One payload is not judged yet. Judge it, or void the trial.'
  if (measure.timed) return 'No time yet: press Release, or type the time.'
  if (scaleOf(measure).number) return 'Nothing is written yet. Type the reading, or void the trial.'
  return 'Nothing is chosen yet. Press what became of it, or void the trial.'
}
