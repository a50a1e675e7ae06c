import { useState } from 'react'
import { api, ask, type Analysis, Refusal, type Study } from '../../data/api'
import { Line, Pick, Tick, Told } from '../../parts/parts'
import { ANSWER } from '../../parts/answer'
import { glued } from '../../parts/glue'

type Supposed = { says: string; analysis: Analysis }
type Asked = {
  evidence: '' | 'shuffle' | 'interval' | 'ranges'
  result: '' | 'mean' | 'median' | 'best'
  without: string
  estimates: boolean
  groups: string[]
}
const NOTHING: Asked = { evidence: '', result: '', without: '', estimates: true, groups: [] }

/** The verdict as it would be, beside the one that stands and never instead of it. */
export function WhatIf({ study, response }: { study: Study; response: string }) {
  const [open, setOpen] = useState(false)
  const [asked, setAsked] = useState(NOTHING)
  const [found, setFound] = useState<Supposed | null>(null)
  const [says, setSays] = useState('')
  const change = (part: Partial<Asked>) => {
    setAsked({ ...asked, ...part })
    setFound(null)
  }
  const look = async () => {
    setSays('')
    const numbers = asked.without.split(/[\s,;]+/).filter(Boolean)
    if (numbers.some((n) => !/^\d{1,6}$/.test(n))) {
      setSays(`“${asked.without}” is not a list of trial numbers. Write them like 7, 12.`)
      return
    }
    try {
      const path = { study_id: study.id }
      const body = {
        response,
        evidence: asked.evidence || null,
        result: asked.result || null,
        without: numbers.map(Number),
        estimates: asked.estimates,
        groups: asked.groups,
      }
      const answer: unknown = await ask(api.POST('/api/studies/{study_id}/what-if', { params: { path }, body }))
      setFound(answer as Supposed) // the client widens tuples to arrays; the document says tuples
    } catch (why) {
      if (!(why instanceof Refusal)) throw why
      setSays(why.message)
    }
  }
  const groups = study.draft.groups ?? []
  const asks = JSON.stringify(asked) !== JSON.stringify(NOTHING)
  if (!open)
    return (
      <button type="button" className="btn btn-plain no-print mt-6 px-0" onClick={() => setOpen(true)}>
        What if …
      </button>
    )
  return (
    <section aria-label="What if" className="no-print mt-6 border-t-2 border-ink pt-3" data-what-if>
      <h2 className="m-0 text-[1.5rem]">What if …</h2>
      <p className="m-0 text-quiet">The same trials judged otherwise. The verdict above stays as it is.</p>
      <div className="mt-3 grid items-end gap-x-6 gap-y-4 md:grid-cols-3">
        <Pick
          label="When a difference is real"
          value={asked.evidence}
          options={[
            ['', 'as planned'],
            ['shuffle', 'by the shuffle'],
            ['interval', 'by the interval'],
            ['ranges', 'by the ranges'],
          ]}
          onChange={(evidence) => change({ evidence })}
        />
        <Pick
          label="What the result is"
          value={asked.result}
          options={[
            ['', 'as planned'],
            ['mean', 'the mean'],
            ['median', 'the median'],
            ['best', 'the best'],
          ]}
          onChange={(result) => change({ result })}
        />
        <Line label="Without trials, by number" value={asked.without} placeholder="7, 12" onChange={(without) => change({ without })} />
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-x-5 gap-y-2">
        <Tick checked={!asked.estimates} onChange={(out) => change({ estimates: !out })}>
          Without estimates
        </Tick>
        {groups.length > 1 ? (
          <fieldset className="m-0 flex flex-wrap items-center gap-2 border-0 p-0">
            <legend className="sr-only">Only these groups</legend>
            <span className="text-quiet">Only</span>
            {groups.map((g) => (
              <button
                key={g}
                type="button"
                aria-pressed={asked.groups.includes(g)}
                className={`btn min-h-[44px] px-3 ${asked.groups.includes(g) ? 'bg-tape text-tape-ink' : 'border-hair'}`}
                onClick={() => change({ groups: asked.groups.includes(g) ? asked.groups.filter((x) => x !== g) : [...asked.groups, g] })}
              >
                {g}
              </button>
            ))}
          </fieldset>
        ) : null}
        <button type="button" className="btn btn-act" disabled={!asks} onClick={() => void look()}>
          Look
        </button>
        <button
          type="button"
          className="btn btn-plain"
          onClick={() => {
            setAsked(NOTHING)
            setFound(null)
            setOpen(false)
          }}
        >
          Put it away
        </button>
      </div>
      <Told says={says} />
      {found ? (
        <div role="status" className="mt-4 border-l-[8px] border-dashed border-tape pl-5" data-supposed>
          <p className="m-0 font-semibold first-letter:uppercase">
            {found.says}: {ANSWER[found.analysis.verdict.answer].toLowerCase()}
          </p>
          <p className="big m-0 text-[1.5rem]">{glued(found.analysis.verdict.says)}</p>
          {found.analysis.verdict.detail ? <p className="m-0 text-quiet">{glued(found.analysis.verdict.detail)}</p> : null}
          <p className="m-0 text-quiet">
            {found.analysis.levels.map((l) => `${String(l.level)}: ${l.result_quoted ?? l.quoted ?? 'none'} (${l.n_kept})`).join('; ')}
          </p>
        </div>
      ) : null}
    </section>
  )
}
