import type { Study } from '../data/api'
import { useChanges } from '../data/queries'
import { Sheet, Skeleton, Trouble } from '../parts/parts'

/** The record of a plan: what was changed, when, and whether trials were kept already. */
export function Record_({ study, open, onClose }: { study: Study; open: boolean; onClose: () => void }) {
  return (
    <Sheet open={open} onClose={onClose} title="What was changed" wide>
      {open ? <Rows id={study.id} /> : null}
    </Sheet>
  )
}

function Rows({ id }: { id: string }) {
  const changes = useChanges(id)
  if (changes.isPending) return <Skeleton />
  if (changes.isLoadingError) return <Trouble error={changes.error} again={() => void changes.refetch()} />
  if (!changes.data.length) return <p>Nothing has been changed since the plan was made.</p>
  return (
    <ol className="m-0 list-none p-0">
      {changes.data.map((c) => (
        <li key={c.id} className="hair py-3">
          <p className="m-0 text-quiet">
            {new Date(c.at).toLocaleString('en-GB', { weekday: 'short', day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })}
            {c.with_trials ? ' · after trials were kept' : ''}
            {c.undone ? ' · undone' : ''}
          </p>
          {c.changes.map((x) => (
            <p key={x.where} className={`m-0 break-words ${c.undone ? 'line-through' : ''}`}>
              <strong>{x.name}</strong>: {x.was} → {x.now}
            </p>
          ))}
        </li>
      ))}
    </ol>
  )
}
