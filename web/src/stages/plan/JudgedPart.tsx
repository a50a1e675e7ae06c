import { Pick } from '../../parts/parts'
import type { PartOf } from '../../planning/problems'
import { CHOICES } from '../../planning/choices.gen'
import { pairs, why } from '../../planning/words'

/** The schools of practice, each with its default and the reason. */
export function JudgedPart({ draft, change }: PartOf) {
  return (
    <>
      <div className="grid gap-6 md:grid-cols-2">
        <Pick
          label="A difference is real when"
          hint={why(CHOICES.evidence, draft.evidence)}
          value={draft.evidence ?? 'shuffle'}
          options={pairs(CHOICES.evidence)}
          onChange={(evidence) => change({ evidence })}
        />
        <Pick
          label="Reading level"
          hint="Which statistics are shown and how they are worded; what is stored is the same."
          value={draft.reading_level ?? 'middle'}
          options={pairs(CHOICES.reading_level)}
          onChange={(reading_level) => change({ reading_level })}
        />
        <Pick
          label="The result of a level is"
          hint={why(CHOICES.result, draft.result)}
          value={draft.result ?? 'mean'}
          options={pairs(CHOICES.result)}
          onChange={(result) => change({ result })}
        />
        <Pick
          label="Doubt is shown as"
          hint={why(CHOICES.doubt, draft.doubt)}
          value={draft.doubt ?? 'auto'}
          options={pairs(CHOICES.doubt)}
          onChange={(doubt) => change({ doubt })}
        />
        {draft.study_kind === 'contest' ? (
          <Pick
            label="Places go by"
            hint={why(CHOICES.rank, draft.rank)}
            value={draft.rank ?? 'result'}
            options={pairs(CHOICES.rank)}
            onChange={(rank) => change({ rank })}
          />
        ) : null}
        <Pick
          label="An odd reading"
          hint={why(CHOICES.odd, draft.odd)}
          value={draft.odd ?? 'flag'}
          options={pairs(CHOICES.odd)}
          onChange={(odd) => change({ odd })}
        />
        <Pick
          label="Devices are compared"
          hint={why(CHOICES.compared, draft.compared)}
          value={draft.compared ?? 'timed'}
          options={pairs(CHOICES.compared)}
          onChange={(compared) => change({ compared })}
        />
        <Pick
          label="Trials are compared"
          hint={why(CHOICES.within, draft.within)}
          value={draft.within ?? ''}
          options={pairs(CHOICES.within)}
          onChange={(within) => change({ within })}
        />
        {(draft.measures[0]?.timers ?? 1) > 1 ? (
          <Pick
            label="Several timers become one by"
            hint={why(CHOICES.timers_by, draft.timers_by)}
            value={draft.timers_by ?? 'auto'}
            options={pairs(CHOICES.timers_by)}
            onChange={(timers_by) => change({ timers_by })}
          />
        ) : null}
      </div>
      <p className="m-0 text-quiet">Agree on these before the first trial. A change afterwards is allowed, kept in the record and told beside the verdict.</p>
    </>
  )
}
