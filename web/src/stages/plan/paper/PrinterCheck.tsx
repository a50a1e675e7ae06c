import { useState } from 'react'
import { Line, Says } from '../../../parts/parts'
import { setPrinter, usePrinter } from './printer'

const number = (text: string) => (/^\d{1,4}([.,]\d{1,2})?$/.test(text.trim()) ? Number(text.trim().replace(',', '.')) : Number.NaN)

/** What the ruler reads on a printed page, written once: the next print is stretched by it. */
export function PrinterCheck() {
  const printer = usePrinter()
  const [line, setLine] = useState('')
  const [square, setSquare] = useState('')
  const [says, setSays] = useState('')
  const off = printer.line !== 100 || printer.square !== 50
  const correct = () => {
    const read = { line: line.trim() ? number(line) : 100, square: square.trim() ? number(square) : 50 }
    // what was read now was printed with what is corrected already
    const next = { line: Math.round(printer.line * read.line) / 100, square: Math.round(printer.square * read.square * 2) / 100 }
    if (!(next.line >= 80 && next.line <= 125 && next.square >= 40 && next.square <= 62.5)) {
      setSays('That is far from 100 and 50 mm. Print at 100 %, not “fit to page”, and measure again, in mm.')
      return
    }
    setSays('')
    setLine('')
    setSquare('')
    setPrinter(next)
  }
  return (
    <details open={off || undefined} data-printer>
      <summary className="min-h-[48px] cursor-pointer py-3 font-semibold">
        Is the print true to size?{off ? ` Corrected by ${share(100 / printer.line)} across and ${share(50 / printer.square)} down.` : ''}
      </summary>
      <p className="m-0">Each page has a line of 100 mm and a square of 50 mm. Lay a ruler on them; what it says is kept for the printer of this computer.</p>
      <div className="mt-2 grid grid-cols-2 gap-x-6">
        <Line label="The line measures, mm" value={line} placeholder="100" onChange={setLine} />
        <Line label="The square is high, mm" value={square} placeholder="50" onChange={setSquare} />
      </div>
      {says ? <Says>{says}</Says> : null}
      <div className="mt-2 flex flex-wrap gap-3">
        <button type="button" className="btn" disabled={!line.trim() && !square.trim()} onClick={correct}>
          Correct the next print
        </button>
        {off ? (
          <button type="button" className="btn btn-plain" onClick={() => setPrinter({ line: 100, square: 50 })}>
            Forget the correction
          </button>
        ) : null}
      </div>
    </details>
  )
}

const share = (by: number) => `${by < 1 ? '−' : '+'}${Math.abs((by - 1) * 100).toFixed(1)} %`
