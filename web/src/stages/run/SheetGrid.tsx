import { memo, useCallback, useMemo, useRef, useState } from 'react'
import type { Question, Study, Turn } from '../../data/api'
import { firstOf, firstWritten, payloadsOf, placesOf, scaleOf, unitSaid } from '../../data/measures'
import { labelOf } from '../../data/trials'
import { type SeenTrial, turnKey } from '../../machines/turns'
import { FaultSheet } from './FaultSheet'
import { TurnCells } from './TurnCells'
import { beforeKeeping, readingsOf, useEntry } from './useEntry'
import { useGive } from './useGive'
import { useNow } from './useNow'

/** Rows in sight at once; more are a press away. */
const ROWS = 60
const noRung = () => null
const cellId = (row: number, column: number) => `sheet-${row}-${column}`

/** A whole sheet typed in: Enter goes from box to box, a row is kept at its last. What is asked stays at its row, and the typing goes on. */
export function SheetGrid({ study, turns, seen, faults }: { study: Study; turns: readonly Turn[]; seen: readonly SeenTrial[]; faults: readonly string[] }) {
  const { now } = useNow(study)
  const give = useGive(study, now, false, noRung)
  const [shown, setShown] = useState(ROWS)
  const [voiding, setVoiding] = useState<Turn>()
  const [asking, setAsking] = useState<readonly string[]>([])
  const kept = useMemo(() => {
    const found = new Map<string, SeenTrial>()
    for (const t of seen) if (t.state === 'kept' && !t.practice && t.place !== 'outside') found.set(turnKey(t), t)
    return found
  }, [seen])
  const places = placesOf(study.draft)
  const count = turns.filter((t) => kept.has(turnKey(t))).length
  const onAsks = useCallback(
    (key: string, asks: boolean) => setAsking((a) => (asks === a.includes(key) ? a : asks ? [...a, key] : a.filter((k) => k !== key))),
    [],
  )
  return (
    <section aria-label="Type a sheet in" className="no-print mt-6">
      <p className="m-0" role="status">
        {count} of {turns.length} rows kept
        {asking.length ? `; ${asking.length === 1 ? 'one row asks' : `${asking.length} rows ask`} something before it is kept` : ''}.
      </p>
      <div className="relative mt-2 overflow-x-auto" tabIndex={0} role="region" aria-label="The sheet">
        <table className="w-full border-collapse" data-sheet>
          <thead>
            <tr className="border-b-2 border-ink text-left">
              <th scope="col">Turn</th>
              <th scope="col">Group</th>
              <th scope="col">Level</th>
              {places.map((p) => (
                <th key={p.name} scope="col" className="first-letter:uppercase">
                  {p.measure.name}
                  {p.payloadName ? `, ${p.payloadName}` : ''}
                  {p.timer || (p.measure.timers > 1 && p.measure.id === firstOf(study.draft).id) ? `, timer ${p.timer + 1}` : ''}
                  {unitSaid(p.measure) ? ` / ${unitSaid(p.measure)}` : ''}
                </th>
              ))}
              <th scope="col">
                <span className="sr-only">What became of the row</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {turns.slice(0, shown).map((t, i) => (
              <Row key={turnKey(t)} study={study} turn={t} row={i} done={kept.get(turnKey(t))} give={give} onVoid={setVoiding} onAsks={onAsks} />
            ))}
          </tbody>
        </table>
      </div>
      {turns.length > shown ? (
        <button type="button" className="btn mt-3" onClick={() => setShown(shown + ROWS)}>
          The next {Math.min(ROWS, turns.length - shown)} rows
        </button>
      ) : null}
      <FaultSheet
        open={voiding !== undefined}
        faults={faults}
        onClose={() => setVoiding(undefined)}
        onFault={(fault) => {
          if (voiding) give(voiding, { state: 'void', fault })
          setVoiding(undefined)
        }}
      />
    </section>
  )
}

type RowProps = {
  study: Study
  turn: Turn
  row: number
  done: SeenTrial | undefined
  give: ReturnType<typeof useGive>
  onVoid: (turn: Turn) => void
  onAsks: (key: string, asks: boolean) => void
}

const Row = memo(function Row({ study, turn, row, done, give, onVoid, onAsks }: RowProps) {
  const key = turnKey(turn)
  const { places, texts, setText, clear } = useEntry(study.id, key, study.draft)
  const [says, setSays] = useState<{ of: string; questions: Question[]; text: string } | null>(null)
  const busy = useRef(false)
  const first = firstOf(study.draft)
  const keep = async (written = texts) => {
    if (busy.current) return
    busy.current = true
    try {
      const readings = readingsOf(places, written).map((r) => ({ ...r, taken: 'sheet' as const }))
      if (readings.filter((r) => r.measure === first.id).length < payloadsOf(study.draft, first).length) return
      const of = readings.map((r) => (r.texts ?? []).join('|')).join('||')
      const before = says?.of === of ? ({ state: 'clear' } as const) : await beforeKeeping(study, readings, turn.level)
      if (before.state !== 'clear') {
        const questions = before.state === 'asks' ? before.questions : []
        setSays({ of: before.state === 'asks' ? of : '', questions, text: before.state === 'asks' ? questions.map((q) => q.says).join(' ') : before.says })
        onAsks(key, true)
        return
      }
      give(turn, { readings, answered: says?.of === of ? says.questions.map((q) => q.says.slice(0, 300)) : [] })
      setSays(null)
      onAsks(key, false)
      clear()
    } finally {
      busy.current = false
    }
  }
  const next = (column: number) => {
    const last = column === places.length - 1
    if (last) void keep()
    const to = last ? nextRow(row) : document.getElementById(cellId(row, column + 1))
    to?.focus()
  }
  return (
    <tr className="border-b border-hair" data-row={key}>
      <TurnCells study={study} turn={turn} />
      {done ? (
        <td colSpan={places.length} className="py-1 pr-3 text-[1.1rem]">
          {firstWritten(study, done)}
        </td>
      ) : (
        places.map((p, column) => (
          <td key={p.name} className="py-1 pr-3">
            <input
              id={cellId(row, column)}
              data-cell
              autoComplete="off"
              inputMode={scaleOf(p.measure).number ? 'text' : undefined}
              aria-label={`Turn ${turn.position}, ${labelOf(study, turn.level)}: ${p.measure.name}${p.payloadName ? `, ${p.payloadName}` : ''}${p.measure.timers > 1 ? `, timer ${p.timer + 1}` : ''}`}
              className="field big min-w-[5.5rem] text-[1.35rem]"
              value={texts[p.name] ?? ''}
              onChange={(e) => {
                if (/^v$/i.test(e.target.value) && column === 0) onVoid(turn)
                else setText(p.name, wordOf(p.measure.words, e.target.value))
              }}
              onKeyDown={(e) => {
                const step = { ArrowDown: nextRow(row), ArrowUp: rowBefore(row) }[e.key]
                if (e.key === 'Enter') next(column)
                else if (step) step.focus()
                else return
                e.preventDefault()
              }}
            />
          </td>
        ))
      )}
      <td className="max-w-[26rem] py-1">
        {done ? (
          <span className="text-quiet">{done.saved === 'yes' ? 'kept' : 'kept, on its way'}</span>
        ) : says ? (
          <span className="flex flex-wrap items-center gap-2 font-semibold text-doubt" role="alert">
            {says.text}
            {says.of ? (
              <button type="button" className="btn min-h-[44px]" onClick={() => void keep()}>
                It is what was read
              </button>
            ) : null}
          </span>
        ) : (
          <button type="button" className="btn btn-plain min-h-[44px]" onClick={() => onVoid(turn)} aria-label={`Void turn ${turn.position}`}>
            Void
          </button>
        )}
      </td>
    </tr>
  )
})

/** An outcome may be typed by its number, the best first. */
const wordOf = (words: readonly string[], text: string): string => (words.length && /^[1-9]$/.test(text) ? (words[Number(text) - 1] ?? text) : text)

const cells = (): HTMLElement[] => [...document.querySelectorAll<HTMLElement>('[data-cell][id$="-0"]')]
const rowOf = (el: HTMLElement): number => Number(el.id.split('-')[1])
const nextRow = (row: number): HTMLElement | undefined => cells().find((el) => rowOf(el) > row)
const rowBefore = (row: number): HTMLElement | undefined => cells().findLast((el) => rowOf(el) < row)
