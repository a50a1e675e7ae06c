import type { Study } from '../data/api'

/** What stands at the head of every printed page: title, class, groups and day, the question, the prediction with its reason. */
export function PaperHead({ study, what }: { study: Study; what?: string }) {
  const { class_label, groups, question, prediction, reason } = study.draft
  const day = new Date().toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })
  return (
    <div className="mb-3 hidden print:block" data-paper-head>
      <p className="m-0 text-[1.5rem] font-bold">
        {study.title}
        {what ? `: ${what}` : ''}
      </p>
      <p className="m-0">{[class_label ? `Class ${class_label}` : '', groups?.length ? `Groups: ${groups.join(', ')}` : '', day].filter(Boolean).join('. ')}</p>
      {question ? <p className="m-0 mt-1">{question}</p> : null}
      {prediction ? (
        <p className="m-0 mt-1">
          <strong>Prediction:</strong> {prediction} {reason ? `Reason: ${reason}` : ''}
        </p>
      ) : null}
    </div>
  )
}
