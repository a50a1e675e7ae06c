import type { Analysis, Study } from '../../data/api'
import type { SeenTrial } from '../../machines/turns'
import { Pick } from '../../parts/parts'

/** Which measure is looked at, the first of the plan unless another is chosen. */
export function Choosing({ study, response, onChoose }: { study: Study; response: string; onChoose: (next: { measure: string }) => void }) {
  const measures = study.responses.filter((r) => r.shape !== 'behaviour')
  return (
    <div role="group" aria-label="What is looked at" className="no-print flex flex-wrap gap-x-1" data-choosing>
      {measures.map((r, i) => (
        <button
          key={r.id}
          type="button"
          aria-pressed={r.id === response}
          className={`min-h-[44px] border-0 bg-transparent px-2 font-semibold text-ink ${r.id === response ? 'mark-line' : 'text-quiet underline decoration-1 underline-offset-4'}`}
          onClick={() => onChoose({ measure: i === 0 ? '' : r.id })}
        >
          {r.name}
        </button>
      ))}
    </div>
  )
}

/** What the trials are compared over: the variable, or anything else that was recorded of them. */
export function Over({ study, factor, onChoose }: { study: Study; factor: string; onChoose: (next: { over: string }) => void }) {
  if (study.factors.length < 2) return null
  return (
    <div className="no-print mt-3 w-64">
      <Pick label="Compared over" value={factor} options={study.factors.map((f) => [f.id, f.name] as const)} onChange={(id) => onChoose({ over: id })} />
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
