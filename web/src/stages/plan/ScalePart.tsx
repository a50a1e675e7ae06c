import type { MeasureDraft } from '../../data/api'
import { plainNumber } from '../../machines/turns'
import { Field, Line, Pick, Says } from '../../parts/parts'
import { colourOf } from '../../tape/geometry'

type Props = {
  where: string
  value: MeasureDraft
  at: (w: string) => string | undefined
  asked: (w: string) => string | undefined
  onChange: (m: MeasureDraft) => void
}

/** An outcome in words, the best first, with the line below which it no longer counts as survived. */
export function OutcomeScale({ where, value, at, asked, onChange }: Props) {
  const { words, survived } = value
  const set = (next: string[], line = survived) => onChange({ ...value, words: next, survived: Math.min(line, Math.max(0, next.length - 1)) })
  return (
    <fieldset className="m-0 border-0 p-0" data-outcome-scale>
      <legend className="text-[0.92rem] font-semibold text-quiet">
        The outcomes, the best first; press below the last that counts as survived, or as gone well
      </legend>
      <ol className="m-0 mt-1 grid max-w-[34rem] list-none p-0">
        {words.map((w, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a word is its place on the scale
          <li key={i}>
            <div className="flex items-center gap-3">
              <span className={`inline-block h-5 w-5 border-2 border-ink ${i < survived ? 'bg-ink' : 'border-dashed'}`} aria-hidden="true" />
              <input
                aria-label={`Outcome ${i + 1}`}
                className="field"
                maxLength={30}
                value={w}
                onChange={(e) => set(words.map((x, j) => (j === i ? e.target.value : x)))}
              />
              <button
                type="button"
                className="btn btn-plain min-w-[44px] px-1"
                aria-label={`Remove outcome ${i + 1}`}
                onClick={() =>
                  set(
                    words.filter((_, j) => j !== i),
                    i < survived ? survived - 1 : survived,
                  )
                }
              >
                ×
              </button>
            </div>
            {i < words.length - 1 ? (
              <button
                type="button"
                aria-pressed={survived === i + 1}
                className={`my-0.5 grid min-h-[44px] w-full cursor-pointer grid-cols-[1fr_auto_1fr] items-center gap-3 border-0 bg-transparent p-0 text-[0.92rem] ${survived === i + 1 ? 'font-bold text-ink' : 'text-quiet'}`}
                onClick={() => set(words, i + 1)}
              >
                <span className={`border-t-[3px] ${survived === i + 1 ? 'border-tape-edge' : 'border-transparent'}`} />
                {survived === i + 1 ? `counts above this line` : `line below “${w || '…'}”`}
                <span className={`border-t-[3px] ${survived === i + 1 ? 'border-tape-edge' : 'border-transparent'}`} />
              </button>
            ) : null}
          </li>
        ))}
      </ol>
      <button type="button" className="btn" onClick={() => set([...words, ''])}>
        Add an outcome
      </button>
      {at(`${where}.words`) || at(`${where}.survived`) ? (
        <Says>{at(`${where}.words`) ?? at(`${where}.survived`)}</Says>
      ) : (
        <p className="m-0 mt-1 text-quiet">{asked(`${where}.words`) ?? asked(`${where}.survived`)}</p>
      )}
    </fieldset>
  )
}

/** A count with an end: hits of so many shots. */
export function CountScale({ where, value, at, onChange }: Props) {
  return (
    <div className="max-w-96">
      <Line
        label="Out of how many (shots, tries), if there is an end"
        says={at(`${where}.of`)}
        value={value.of ? String(value.of) : ''}
        placeholder="no end"
        onChange={(text) => (/^\d{0,3}$/.test(text.trim()) ? onChange({ ...value, of: Number(text.trim()) }) : undefined)}
      />
    </div>
  )
}

const HEIGHT = 46

/** Bands along a tape with their points, drawn as they will be taped on the floor. */
export function ZoneScale({ where, value, at, asked, onChange }: Props) {
  const { zones } = value
  const put = (i: number, part: Partial<MeasureDraft['zones'][number]>) => onChange({ ...value, zones: zones.map((z, j) => (j === i ? { ...z, ...part } : z)) })
  const last = zones[zones.length - 1]
  const drawn = zones.flatMap((z, i) => {
    const [a, b] = [plainNumber(z.start), plainNumber(z.end)]
    return a !== null && b !== null && b > a ? [{ a, b, points: z.points, i }] : []
  })
  const far = Math.max(1e-9, ...drawn.map((d) => d.b)) * 1.08
  return (
    <fieldset className="m-0 border-0 p-0" data-zones>
      <legend className="text-[0.92rem] font-semibold text-quiet">Zones along the tape, in {value.unit}</legend>
      {drawn.length ? (
        <svg
          viewBox={`0 0 600 ${HEIGHT}`}
          className="mt-2 w-full max-w-[44rem]"
          role="img"
          aria-label={drawn.map((d) => `${d.a} to ${d.b} ${value.unit}: ${d.points} points`).join('; ')}
        >
          <rect x={0} y={10} width={600} height={HEIGHT - 20} fill="var(--tape)" />
          {drawn.map((d) => (
            <g key={d.i}>
              <rect
                x={(d.a / far) * 600}
                y={4}
                width={((d.b - d.a) / far) * 600}
                height={HEIGHT - 8}
                fill="var(--floor)"
                stroke={colourOf(d.i)}
                strokeWidth={3}
              />
              <text x={((d.a + d.b) / 2 / far) * 600} y={HEIGHT / 2 + 7} textAnchor="middle" className="big" fontSize={20} fill="var(--ink)">
                {d.points}
              </text>
            </g>
          ))}
        </svg>
      ) : null}
      {zones.map((z, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a zone is its place
        <div key={i} className="mt-2 grid max-w-[36rem] grid-cols-[1fr_1fr_7rem_auto] items-end gap-3">
          <Line label={`Zone ${i + 1} from`} says={at(`${where}.zones.${i}`)} value={z.start} placeholder="2" onChange={(start) => put(i, { start })} />
          <Line label="to" value={z.end} placeholder="2.5" onChange={(end) => put(i, { end })} />
          <Field label="Points">
            {(p) => (
              <input
                {...p}
                inputMode="numeric"
                className="field"
                value={String(z.points)}
                onChange={(e) => (/^-?\d{0,4}$/.test(e.target.value) ? put(i, { points: Number(e.target.value) || 0 }) : undefined)}
              />
            )}
          </Field>
          <button
            type="button"
            className="btn btn-plain min-w-[44px] px-1"
            aria-label={`Remove zone ${i + 1}`}
            onClick={() => onChange({ ...value, zones: zones.filter((_, j) => j !== i) })}
          >
            ×
          </button>
        </div>
      ))}
      <div className="mt-3 flex flex-wrap items-end gap-4">
        <button
          type="button"
          className="btn"
          onClick={() => onChange({ ...value, zones: [...zones, { start: last?.end ?? '', end: '', points: (last?.points ?? 0) + 1 }] })}
        >
          Add a zone
        </button>
        <div className="w-64">
          <Pick
            label="On a line between two zones"
            value={value.edge}
            options={[
              ['higher', 'the higher points count'],
              ['lower', 'the lower points count'],
            ]}
            onChange={(edge) => onChange({ ...value, edge })}
          />
        </div>
      </div>
      {at(`${where}.zones`) ? <Says>{at(`${where}.zones`)}</Says> : <p className="m-0 mt-1 text-quiet">{asked(`${where}.zones`)}</p>}
    </fieldset>
  )
}
