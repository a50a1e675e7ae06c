import { Pick } from '../../parts/parts'
import type { PartOf } from '../../planning/problems'
import { COMPARED, DOUBTS, EVIDENCE, ODD, pairs, RANKS, READING, RESULTS, TIMERS_BY, WITHIN, why } from '../../planning/words'

/** The schools of practice, each with its default and the reason. */
export function JudgedPart({ draft, change }: PartOf) {
  return (
    <>
      <div className="grid gap-6 md:grid-cols-2">
        <Pick
          label="A difference is real when"
          hint={why(EVIDENCE, draft.evidence)}
          value={draft.evidence ?? 'shuffle'}
          options={pairs(EVIDENCE)}
          onChange={(evidence) => change({ evidence })}
        />
        <Pick
          label="Reading level"
          hint="Which statistics are shown and how they are worded; what is stored is the same."
          value={draft.reading_level ?? 'middle'}
          options={pairs(READING)}
          onChange={(reading_level) => change({ reading_level })}
        />
        <Pick
          label="The result of a level is"
          hint={why(RESULTS, draft.result)}
          value={draft.result ?? 'mean'}
          options={pairs(RESULTS)}
          onChange={(result) => change({ result })}
        />
        <Pick
          label="Doubt is shown as"
          hint={why(DOUBTS, draft.doubt)}
          value={draft.doubt ?? 'auto'}
          options={pairs(DOUBTS)}
          onChange={(doubt) => change({ doubt })}
        />
        {draft.study_kind === 'contest' ? (
          <Pick
            label="Places go by"
            hint={why(RANKS, draft.rank)}
            value={draft.rank ?? 'result'}
            options={pairs(RANKS)}
            onChange={(rank) => change({ rank })}
          />
        ) : null}
        <Pick label="An odd reading" hint={why(ODD, draft.odd)} value={draft.odd ?? 'flag'} options={pairs(ODD)} onChange={(odd) => change({ odd })} />
        <Pick
          label="Devices are compared"
          hint={why(COMPARED, draft.compared)}
          value={draft.compared ?? 'timed'}
          options={pairs(COMPARED)}
          onChange={(compared) => change({ compared })}
        />
        <Pick
          label="Trials are compared"
          hint={why(WITHIN, draft.within)}
          value={draft.within ?? ''}
          options={pairs(WITHIN)}
          onChange={(within) => change({ within })}
        />
        {(draft.measures[0]?.timers ?? 1) > 1 ? (
          <Pick
            label="Several timers become one by"
            hint={why(TIMERS_BY, draft.timers_by)}
            value={draft.timers_by ?? 'auto'}
            options={pairs(TIMERS_BY)}
            onChange={(timers_by) => change({ timers_by })}
          />
        ) : null}
      </div>
      <p className="m-0 text-quiet">Agree on these before the first trial. A change afterwards is allowed, kept in the record and told beside the verdict.</p>
    </>
  )
}
