import type { Analysis, Study } from '../../data/api'
import type { SeenTrial } from '../../machines/turns'
import { Pick } from '../../parts/parts'

/** Which measure is looked at, the first of the plan unless another is chosen; and what the trials are compared over. */
export function Choosing({
  study,
  response,
  factor,
  onChoose,
}: {
  study: Study
  response: string
  factor: string
  onChoose: (next: { measure?: string; over?: string }) => void
}) {
  const measures = study.responses.filter((r) => r.shape !== 'behaviour')
  if (measures.length < 2 && study.factors.length < 2) return null
  return (
    <div className="no-print mt-5 flex flex-wrap items-end gap-x-6 gap-y-2" data-choosing>
      {measures.length > 1 ? (
        <div role="group" aria-label="What is looked at" className="flex flex-wrap gap-2">
          {measures.map((r, i) => (
            <button
              key={r.id}
              type="button"
              aria-pressed={r.id === response}
              className={`btn min-h-[48px] ${r.id === response ? 'bg-tape text-tape-ink' : 'border-hair font-normal'}`}
              onClick={() => onChoose({ measure: i === 0 ? '' : r.id })}
            >
              {r.name}
            </button>
          ))}
        </div>
      ) : null}
      {study.factors.length > 1 ? (
        <div className="w-56">
          <Pick label="Compared over" value={factor} options={study.factors.map((f) => [f.id, f.name] as const)} onChange={(id) => onChoose({ over: id })} />
        </div>
      ) : null}
    </div>
  )
}

/** The trials of each value of something that was recorded beside the variable, in the order of the analysis. */
export function over(a: Analysis, seen: readonly SeenTrial[], factor: string): { label: string; shape: number; now: boolean; trials: SeenTrial[] }[] {
  const of = (t: SeenTrial): string => {
    if (factor.startsWith('held:')) return t.conditions[factor.slice(5)] ?? ''
    if (factor === 'version') return t.version === null ? '' : `${t.device || t.group} version ${t.version}`.trim()
    return factor === 'group' ? t.group : factor === 'person' ? t.person : factor === 'device' ? t.device : t.specimen
  }
  return a.levels.map((l, i) => ({ label: String(l.level), shape: i, now: false, trials: seen.filter((t) => of(t) === String(l.level)) }))
}
