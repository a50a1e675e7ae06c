import type { Beside, Study } from '../../../data/api'
import { labelOf, levelIndex } from '../../../data/trials'
import { colourOf, shapeOf } from '../../../tape/geometry'
import { useWidth } from '../../../tape/Tape'
import type { Numbers } from './drawn'

type Rows = Beside['behaviours']
const ROW = 52
const HEAD = 34

const wordsOf = (rows: Rows): string[] => [...new Set(rows.flatMap((r) => r.words.map((w) => w.word)))]
const countOf = (row: Rows[number], word: string): number => row.words.find((w) => w.word === word)?.count ?? 0

/** How the devices behaved: a mark for every trial in which a word was noted, under its word, a row for each level or version. */
export function Behaved({ study, rows, versions }: { study: Study; rows: Rows; versions: boolean }) {
  const [ref, width] = useWidth()
  const words = wordsOf(rows)
  const x0 = Math.min(190, 40 + 9 * Math.max(...rows.map((r) => named(study, r.level, versions).length)))
  const column = Math.max(40, (width - x0 - 8) / Math.max(1, words.length))
  const most = Math.max(1, ...rows.flatMap((r) => r.words.map((w) => w.count)))
  const apart = Math.min(19, (column - 46) / most)
  const high = HEAD + rows.length * ROW + 8
  const label = `How the devices behaved. ${rows.map((r) => `${named(study, r.level, versions)}: ${words.map((w) => `${w} ${countOf(r, w)}`).join(', ')}`).join('; ')}.`
  return (
    <div ref={ref} className="overflow-x-clip">
      {width > 0 ? (
        <svg width={width} height={high} role="img" aria-label={label} data-behaved>
          {words.map((w, c) => (
            <text key={w} x={x0 + c * column} y={20} className="big" fontSize={Math.min(17, column / 5.5)} fill="var(--ink)">
              {w}
            </text>
          ))}
          {rows.map((r, i) => {
            const shape = versions ? i : Math.max(0, levelIndex(study, r.level))
            const y = HEAD + i * ROW + ROW / 2
            return (
              <g key={r.level} data-row={named(study, r.level, versions)}>
                <line x1={0} x2={width} y1={y + ROW / 2} y2={y + ROW / 2} stroke="var(--hair)" />
                <path d={shapeOf(shape)(8)} transform={`translate(12 ${y})`} fill={colourOf(shape)} />
                <text x={30} y={y + 6} className="big" fontSize={17} fill="var(--ink)">
                  {named(study, r.level, versions)}
                </text>
                {words.map((w, c) => {
                  const n = countOf(r, w)
                  return (
                    <g key={w} data-word={w}>
                      {Array.from({ length: n }, (_, k) => (
                        <path
                          // biome-ignore lint/suspicious/noArrayIndexKey: the marks of a word are alike
                          key={k}
                          d={shapeOf(shape)(7)}
                          transform={`translate(${x0 + c * column + 9 + k * apart} ${y})`}
                          fill={colourOf(shape)}
                          stroke="var(--floor)"
                        />
                      ))}
                      <text x={x0 + c * column + 22 + Math.max(0, n - 1) * apart} y={y + 6} className="big" fontSize={16} fill="var(--quiet)">
                        {n || '–'}
                      </text>
                    </g>
                  )
                })}
              </g>
            )
          })}
        </svg>
      ) : null}
    </div>
  )
}

const named = (study: Study, level: string, version: boolean): string => (version ? level : labelOf(study, level))

export const behavedTable = (study: Study, rows: Rows, versions: boolean): Numbers => {
  const words = wordsOf(rows)
  return {
    head: [versions ? 'version' : study.draft.variable.name, ...words, 'noted in'],
    rows: rows.map((r) => [named(study, r.level, versions), ...words.map((w) => String(countOf(r, w))), String(r.trials)]),
  }
}
