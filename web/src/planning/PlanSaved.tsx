import type { Draft } from '../data/api'
import type { Typing, TypingNow } from '../machines/typing'
import { SavedNote } from '../parts/SavedNote'

/** Whether the plan is stored; after a clash, what the other's plan says. */
export function PlanSaved({ plan }: { plan: TypingNow<Draft> & { machine: Typing<Draft> } }) {
  return (
    <SavedNote
      now={plan}
      machine={plan.machine}
      back="Go back to the saved plan"
      theirs={(draft) => (
        <>
          Theirs: “{draft.question}”, {draft.variable?.levels?.join(', ')}, {draft.repeats} repeats.
        </>
      )}
    />
  )
}
