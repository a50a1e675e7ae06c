import { useEffect, useState } from 'react'
import { Key, Sheet } from '../../parts/parts'

/** Void needs its fault: a digit, a press, or the teacher's own words. */
export function FaultSheet({
  open,
  faults,
  onClose,
  onFault,
}: {
  open: boolean
  faults: readonly string[]
  onClose: () => void
  onFault: (fault: string) => void
}) {
  useEffect(() => {
    if (!open) return
    const hear = (e: KeyboardEvent) => {
      if (e.target instanceof HTMLInputElement) return
      const fault = /^[1-9]$/.test(e.key) ? faults[Number(e.key) - 1] : undefined
      if (fault) {
        e.preventDefault()
        onFault(fault)
      }
    }
    window.addEventListener('keydown', hear)
    return () => window.removeEventListener('keydown', hear)
  }, [open, faults, onFault])
  return (
    <Sheet open={open} onClose={onClose} title="Void: what went wrong?">
      <p className="m-0 mb-3 text-quiet">The trial stays on record and is run again.</p>
      <ul className="m-0 grid list-none gap-2 p-0">
        {faults.map((f, i) => (
          <li key={f}>
            <button type="button" className="btn w-full justify-start text-left" onClick={() => onFault(f)}>
              {i < 9 ? <Key>{i + 1}</Key> : null}
              {f}
            </button>
          </li>
        ))}
      </ul>
      <OwnFault onFault={onFault} />
    </Sheet>
  )
}

/** A fault in the teacher's own words. */
export function OwnFault({ onFault }: { onFault: (fault: string) => void }) {
  const [own, setOwn] = useState('')
  return (
    <form
      className="mt-4 flex gap-3"
      onSubmit={(e) => {
        e.preventDefault()
        if (own.trim()) onFault(own.trim())
      }}
    >
      <input aria-label="Another fault" className="field" maxLength={80} placeholder="something else" value={own} onChange={(e) => setOwn(e.target.value)} />
      <button type="submit" className="btn" disabled={!own.trim()}>
        Void
      </button>
    </form>
  )
}
