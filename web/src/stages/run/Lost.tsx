/** What an instrument lost, told until somebody has looked at it. */
export function Lost({ says, onSeen }: { says: readonly string[]; onSeen: () => void }) {
  if (!says.length) return null
  return (
    <div role="alert" className="mx-4 my-2 flex flex-wrap items-center gap-x-4 border-l-[8px] border-doubt pl-3 md:mx-8" data-lost>
      <span className="font-semibold text-doubt">
        {says.length > 1 ? `${says.length} times something did not arrive. ` : ''}
        {says[says.length - 1]}
      </span>
      <button type="button" className="btn min-h-[44px]" onClick={onSeen}>
        Looked at
      </button>
    </div>
  )
}
