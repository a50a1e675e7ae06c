import type { Report } from '../../data/api'
import { firstOf, scaleOf } from '../../data/measures'
import { levelIndex } from '../../data/trials'
import type { SeenTrial } from '../../machines/turns'
import { Ladder } from '../../tape/Ladder'
import { flagOf, tapeLevels, unitOf } from '../../tape/marks'
import { Shares } from '../../tape/Shares'
import { Tape } from '../../tape/Tape'

/** More rows than this stand close together; their results are on the podium. */
const MOST_ROOMY = 6

/** The picture of a report, as the run drew it: tape, shares or ladder. */
export function Drawn({ report, seen, paper }: { report: Report; seen: readonly SeenTrial[]; paper: boolean }) {
  const { study, analysis } = report
  const first = firstOf(study.draft)
  if (study.rungs.length) return <Ladder study={study} seen={[...seen]} />
  if (scaleOf(first).survives) return <Shares study={study} seen={seen} />
  const levels = tapeLevels(study, seen, undefined, undefined, first.id, first.unit).map((l, i) => {
    const s = analysis.levels.find((x) => levelIndex(study, x.level) === i)
    return s && s.n_kept > 0 ? { ...l, ...flagOf(s, study), low: s.min, high: s.max } : l
  })
  return (
    <Tape
      roomy={levels.length <= MOST_ROOMY}
      asDrawn={paper}
      levels={levels}
      unit={unitOf(study, first.id)}
      caption={`Each level on the tape. ${analysis.levels.map((l) => `${String(l.level)}: ${l.quoted ?? 'none'}`).join('; ')}.`}
    />
  )
}
