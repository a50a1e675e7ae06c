import { useQuery } from '@tanstack/react-query'
import { type FormEvent, useEffect, useRef, useState } from 'react'
import { NavLink, useParams, useSearchParams } from 'react-router'
import { api, ask, type Marked, type PracticeItem, Refusal } from '../data/api'
import { Line, Skeleton, Told, Trouble } from '../parts/parts'
import { type Strip, shapeOf } from '../tape/geometry'
import { minus } from '../tape/Plot'
import { Strip_, Tape, useWidth } from '../tape/Tape'

const KINDS = [
  ['unfair', 'What is unfair?'],
  ['tape', 'Read a tape'],
  ['fall', 'Time a fall'],
  ['luck', 'Different, or luck?'],
  ['average', 'Average without the void'],
] as const
type Kind = (typeof KINDS)[number][0]
const MOST = 9_999

/** Practice for pupils, on the wall or a phone: no account, and nothing is kept about anyone. */
export function Practice() {
  const { kind: named = 'unfair' } = useParams()
  const [search, setSearch] = useSearchParams()
  const kind: Kind = KINDS.find(([id]) => id === named)?.[0] ?? 'unfair'
  const [first] = useState(() => 1 + Math.floor(Math.random() * (MOST - 1)))
  const seed = Math.min(MOST, Math.max(0, Number.parseInt(search.get('problem') ?? String(first), 10) || 0))
  const [score, setScore] = useState({ right: 0, of: 0 })
  const problem = useQuery({
    queryKey: ['practice', kind, seed],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: async () => (await ask(api.GET('/api/practice/{kind}', { params: { path: { kind }, query: { seed } } }))) as PracticeItem, // tuples, not arrays
  })
  useEffect(() => {
    document.title = 'Practice – Bendro'
  }, [])
  const turn = (to: number) => setSearch({ problem: String(to) }, { replace: true })
  return (
    <main className="mx-auto w-full max-w-[72rem] px-4 py-5 md:px-8">
      <div className="flex flex-wrap items-baseline gap-x-6 gap-y-1 border-b-2 border-ink pb-2">
        <h1 className="m-0 text-[1.7rem]">Practice</h1>
        <nav aria-label="Kinds of problem" className="flex flex-wrap gap-x-4">
          {KINDS.map(([id, label]) => (
            <NavLink
              key={id}
              to={`/practice/${id}`}
              className={({ isActive }) =>
                `flex min-h-[44px] items-center font-semibold no-underline ${isActive || id === kind ? 'mark-line text-ink' : 'text-quiet'}`
              }
            >
              {label}
            </NavLink>
          ))}
        </nav>
        <span className="grow" />
        <span className="num text-quiet" data-score>
          {score.of ? `${score.right} right of ${score.of}` : ''}
        </span>
      </div>
      {problem.isError ? (
        <Trouble error={problem.error} again={() => void problem.refetch()} />
      ) : problem.data ? (
        <One
          key={`${kind} ${seed}`}
          problem={problem.data}
          onMarked={(right) => setScore((s) => ({ right: s.right + (right ? 1 : 0), of: s.of + 1 }))}
          next={() => turn((seed + 1) % (MOST + 1))}
        />
      ) : (
        <Skeleton part lines={4} />
      )}
      <div className="mt-8 flex flex-wrap items-end gap-x-6 border-t border-hair pt-3">
        <div className="w-40">
          <Line label="Problem number" value={String(seed)} onChange={(text) => turn(Math.min(MOST, Number.parseInt(text.replace(/\D/g, '') || '0', 10)))} />
        </div>
        <p className="m-0 max-w-[34rem] text-quiet">
          The same number is the same problem on every screen. Nothing is kept: close the page and the score is gone.
        </p>
      </div>
    </main>
  )
}

function One({ problem, onMarked, next }: { problem: PracticeItem; onMarked: (right: boolean) => void; next: () => void }) {
  const [marked, setMarked] = useState<Marked | null>(null)
  const [given, setGiven] = useState('')
  const [typed, setTyped] = useState('')
  const [says, setSays] = useState('')
  const counted = useRef(false)
  const answer = async (text: string) => {
    if (!text.trim() || marked?.right) return
    setSays('')
    setGiven(text)
    try {
      const found = await ask(api.POST('/api/practice/{kind}', { params: { path: { kind: problem.kind } }, body: { seed: problem.seed, answer: text } }))
      setMarked(found)
      if (!counted.current) onMarked(found.right)
      counted.current = true // the first answer counts; trying again is for learning
    } catch (why) {
      if (!(why instanceof Refusal)) throw why
      setSays(why.message)
    }
  }
  const writes = problem.kind === 'tape' || problem.kind === 'average'
  return (
    <section aria-label={`Problem ${problem.seed}`} data-problem>
      <h2 className="mb-3 mt-5 max-w-[52rem] text-[1.9rem] max-md:text-[1.4rem]">{problem.asks}</h2>
      {problem.kind === 'unfair' ? <Trials problem={problem} /> : null}
      {problem.kind === 'average' ? <Trials problem={problem} /> : null}
      {problem.kind === 'luck' ? <Two problem={problem} /> : null}
      {problem.kind === 'tape' ? <Read problem={problem} /> : null}
      {problem.kind === 'fall' ? <Fall problem={problem} onTimed={(text) => void answer(text)} done={marked !== null} /> : null}
      {problem.choices.length ? (
        <div className="mt-5 flex flex-wrap gap-3" role="group" aria-label="Your answer">
          {problem.choices.map((c) => (
            <button
              key={c.id}
              type="button"
              aria-pressed={given === c.id}
              className={`btn min-h-[56px] px-5 text-[1.1rem] ${given === c.id ? 'bg-tape text-tape-ink' : ''}`}
              onClick={() => void answer(c.id)}
            >
              {c.says}
            </button>
          ))}
        </div>
      ) : null}
      {writes ? (
        <form
          className="mt-5 flex max-w-[30rem] flex-wrap items-end gap-4"
          onSubmit={(e: FormEvent) => {
            e.preventDefault()
            void answer(typed)
          }}
        >
          <div className="grow">
            <Line big label={`Your answer in ${problem.unit}`} value={typed} onChange={setTyped} />
          </div>
          <button type="submit" className="btn btn-act min-h-[56px]">
            Check
          </button>
        </form>
      ) : null}
      <Told says={says} />
      <div aria-live="polite" className="min-h-[7rem]">
        {marked ? (
          <div className={`mt-5 border-l-[8px] pl-5 ${marked.right ? 'border-tape' : 'border-ink'}`} data-marked={marked.right ? 'right' : 'wrong'}>
            <p className="m-0 text-[1.35rem] font-semibold">
              {problem.kind === 'fall' || marked.says === 'Right.' ? '' : marked.right ? 'Right. ' : problem.choices.length ? 'No. ' : ''}
              {marked.says}
            </p>
            {marked.right || problem.choices.length || problem.kind === 'fall'
              ? marked.working.map((line) => (
                  <p key={line} className="num m-0 mt-1 text-[1.1rem]">
                    {line}
                  </p>
                ))
              : null}
            <button type="button" className="btn btn-act mt-3" onClick={next}>
              Next problem
            </button>
          </div>
        ) : null}
      </div>
    </section>
  )
}

function Trials({ problem }: { problem: PracticeItem }) {
  const full = problem.kind === 'unfair'
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="The trials">
      <table className="num w-full max-w-[44rem] border-collapse text-left text-[1.05rem]">
        <thead>
          <tr className="text-quiet">
            {['trial', ...(full ? ['level', `reading / ${problem.unit}`, 'released by', problem.held_name] : [`reading / ${problem.unit}`, ''])].map((h, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a heading is its column
              <th key={i} scope="col" className="py-0.5 pr-6 font-normal max-md:pr-3">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {problem.rows.map((r) => (
            <tr key={r.order} className="border-t border-hair">
              <td className="py-0.5 pr-6">{r.order}</td>
              {full ? <td className="whitespace-nowrap pr-6 font-semibold">{r.level}</td> : null}
              <td className="pr-6">{r.reading}</td>
              {full ? (
                <>
                  <td className="pr-6">{r.person}</td>
                  <td>{r.held}</td>
                </>
              ) : (
                <td>{r.void ? 'void' : ''}</td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

function Two({ problem }: { problem: PracticeItem }) {
  const levels = ['A', 'B'].map((label, shape) => ({
    label,
    shape,
    marks: problem.rows.filter((r) => r.level === label).map((r) => ({ id: String(r.order), value: r.value, kind: 'exact' as const })),
  }))
  const said = levels.map(
    (l) =>
      `${l.label}: ${problem.rows
        .filter((r) => r.level === l.label)
        .map((r) => r.reading)
        .join(', ')}`,
  )
  return <Tape roomy levels={levels} unit={problem.unit} caption={`${said.join('; ')} ${problem.unit}`} />
}

/** A stretch of tape with every step drawn, and a mark on it. */
function Read({ problem }: { problem: PracticeItem }) {
  const [ref, width] = useWidth()
  if (!problem.span || !problem.step || problem.value === null) return null
  const [from, to] = problem.span
  const { step, value } = problem
  const inner = Math.max(60, width - 90)
  const x = (v: number) => ((v - from) / (to - from)) * inner
  const every = Math.round((to - from) / step)
  const at = Array.from({ length: every + 1 }, (_, i) => from + i * step)
  const big = step * (every > 30 ? 10 : 5)
  const whole = (v: number) => Math.abs(v / big - Math.round(v / big)) < 1e-6
  const s: Strip = { from, to, broken: from > 0, x, major: at.filter(whole), minor: at.filter((v) => !whole(v)), label: (v) => minus(v) }
  return (
    <div ref={ref}>
      {width > 0 ? (
        <svg width={width} height={150} role="img" aria-label={`A tape in ${problem.unit} with a mark on it`} data-tape={value}>
          <path d={shapeOf(4)(16)} fill="var(--ink)" transform={`translate(${24 + x(value)} 30)`} />
          <line x1={24 + x(value)} x2={24 + x(value)} y1={40} y2={64} stroke="var(--ink)" strokeWidth={2} />
          <Strip_ s={s} x0={24} width={inner} y={64} height={72} unit={problem.unit} />
        </svg>
      ) : null}
    </div>
  )
}

const WAIT_MS = 1_200

/** A weight that falls for a known time; the thumb presses at both ends, and the presses' own time stamps count. */
function Fall({ problem, onTimed, done }: { problem: PracticeItem; onTimed: (text: string) => void; done: boolean }) {
  const [state, setState] = useState<'ready' | 'wait' | 'falls' | 'down'>('ready')
  const [height, setHeight] = useState(0)
  const began = useRef<number | null>(null)
  const takes = (problem.value ?? 1) * 1000
  useEffect(() => {
    if (state !== 'wait') return
    let frame = 0
    const start = performance.now() + WAIT_MS + Math.random() * 1_500
    const paint = () => {
      const t = performance.now() - start
      setHeight(Math.min(1, Math.max(0, t / takes)) ** 2)
      if (t < takes) frame = requestAnimationFrame(paint)
      else setState('down')
    }
    frame = requestAnimationFrame(paint)
    return () => cancelAnimationFrame(frame)
  }, [state, takes])
  const press = (stamp: number) => {
    if (done) return
    if (state === 'ready') return setState('wait')
    if (began.current === null) began.current = stamp
    else {
      onTimed(`${((stamp - began.current) / 1000).toFixed(2)} s`)
      began.current = null
    }
  }
  return (
    <div className="flex flex-wrap items-stretch gap-8">
      <svg width={150} height={300} role="img" aria-label="A weight at the top of a drop">
        <line x1={30} x2={130} y1={20} y2={20} stroke="var(--ink)" strokeWidth={4} />
        <rect x={20} width={120} y={282} height={14} fill="var(--tape)" />
        <circle cx={80} cy={36 + height * 230} r={16} fill="var(--ink)" data-weight={state} />
      </svg>
      <button
        type="button"
        className="btn btn-act min-h-[9rem] grow self-center text-[1.5rem] md:max-w-[26rem]"
        onPointerDown={(e) => {
          e.preventDefault()
          press(e.timeStamp)
        }}
        onKeyDown={(e) => {
          if ((e.key === ' ' || e.key === 'Enter') && !e.repeat) {
            e.preventDefault()
            press(e.timeStamp)
          }
        }}
      >
        {done ? 'Timed' : state === 'ready' ? 'Ready' : 'Press: let go, and landed'}
      </button>
    </div>
  )
}
