import type { Draft, Study, Templates } from '../../../data/api'
import { PieceSheet } from './PieceSheet'
import { usePrinter } from './printer'

/** The sheets of every group, and those for the lane: on the screen one group's, on paper all. */
export function TemplateSheets({ study, draft, made, groups, lane }: { study: Study; draft: Draft; made: Templates; groups: string[]; lane: boolean }) {
  const printer = usePrinter()
  const inches = made.sizes.some((s) => s.source === 'level' && /\b(in|ft|yd)²?$/.test(s.value))
  const { width, height } = made.layout
  const big = draft.question || study.title
  const sheet = (which: 'pieces' | 'lane', group: string, n: number, of: number, first: boolean) => (
    <div key={`${which} ${group} ${n}`} className={`template-page border border-hair ${first ? '' : 'hidden print:block'}`}>
      <PieceSheet
        made={made}
        layout={which === 'pieces' ? made.layout : made.lane_layout}
        pieces={which === 'pieces' ? made.pieces : made.lane}
        sheet={n}
        head={{
          small: [draft.class_label, which === 'lane' ? 'for the lane' : group, `sheet ${n + 1} of ${of}`].filter(Boolean).join(' · '),
          big,
          says: which === 'lane' ? 'Cut out, and lay or hang at the lane: once for the class.' : made.says,
          group,
        }}
        inches={inches}
        printer={printer}
        look={which === 'pieces' && n === of - 1 ? (made.build?.look ?? []) : []}
      />
    </div>
  )
  return (
    <div className="grid gap-6 lg:grid-cols-2 print:block" data-templates>
      <style>{`@page template { size: ${width}mm ${height}mm; margin: 0 }
        .template-page svg { width: 100%; height: auto }
        @media print { .template-page { page: template; break-after: page; border: 0 !important; height: ${height - 0.2}mm; overflow: hidden }
          .template-page svg { width: ${width}mm !important; height: ${height}mm !important; max-width: none !important; display: block } }`}</style>
      {groups.flatMap((g, i) => made.layout.sheets.map((_, n) => sheet('pieces', g, n, made.layout.sheets.length, i === 0)))}
      {lane ? made.lane_layout.sheets.map((_, n) => sheet('lane', '', n, made.lane_layout.sheets.length, true)) : null}
    </div>
  )
}
