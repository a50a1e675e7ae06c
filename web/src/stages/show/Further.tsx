import type { Report } from '../../data/api'
import { glued } from '../../parts/glue'
import type { Further } from './useOwn'

export const FURTHER_TITLES: Record<Further, string> = {
  behaviours: 'How they behaved',
  faults: 'What went wrong',
  versions: 'The versions',
  groups: 'In the groups’ own words',
}

/** What the conclusion says of how devices behaved, of faults, or of the line of versions: a line for each level or version. */
export function furtherOf(report: Report, part: Further): string[] {
  if (part === 'groups') return report.sections.groups ?? []
  const c = report.conclusion
  if (!c) return []
  if (part !== 'versions') return c[part].map((w) => `${w.label}: ${w.says}.`)
  const several = new Set(c.versions.map((v) => v.device)).size > 1
  return c.versions.map((v) => {
    const changed = v.changed.length ? v.changed.join(', ') : v.since ? 'nothing written' : 'the first'
    return `${several ? `${v.device} ` : ''}${v.number}: ${changed}${v.result ? `; ${v.result}` : ''}${v.failed ? '; failed' : ''}.`
  })
}

export function Lines({ lines }: { lines: readonly string[] }) {
  return (
    <ul className="m-0 list-none p-0">
      {lines.map((l) => (
        <li key={l}>{glued(l)}</li>
      ))}
    </ul>
  )
}
