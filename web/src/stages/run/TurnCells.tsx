import type { Study, Turn } from '../../data/api'
import { labelOf, levelIndex } from '../../data/trials'
import { Shape } from '../../parts/parts'

/** How a row of a sheet begins: its turn, whose it is, and the level. */
export function TurnCells({ study, turn }: { study: Study; turn: Turn }) {
  return (
    <>
      <td className="py-1 pr-3 text-quiet">{turn.position}</td>
      <td className="py-1 pr-3 font-semibold">{turn.group}</td>
      <td className="big py-1 pr-4 text-[1.15rem]">
        <span className="flex items-center gap-2">
          <Shape n={levelIndex(study, turn.level)} size={16} />
          {labelOf(study, turn.level)}
        </span>
      </td>
    </>
  )
}
