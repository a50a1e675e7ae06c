import { Dialog as RadixDialog, VisuallyHidden } from 'radix-ui'
import { type ReactNode, useId } from 'react'
import { colourOf, shapeOf } from '../tape/geometry'

/** A label, its control and the sentence that belongs to it. The control gets its id and what describes it. */
export function Field({ label, says, hint, children }: { label: string; says?: string | undefined; hint?: ReactNode; children: (p: { id: string; 'aria-invalid': boolean; 'aria-describedby': string }) => ReactNode }) {
  const id = useId()
  return (
    <div>
      <label htmlFor={id} className="block text-[0.92rem] font-semibold text-quiet">
        {label}
      </label>
      {children({ id, 'aria-invalid': Boolean(says), 'aria-describedby': `${id}-says` })}
      <div id={`${id}-says`} className="min-h-0 text-[0.92rem]">
        {says ? <Says>{says}</Says> : hint ? <p className="m-0 mt-1 text-quiet">{hint}</p> : null}
      </div>
    </div>
  )
}

/** A sentence that says what cannot be and what to do. */
export function Says({ children }: { children: ReactNode }) {
  return (
    <p className="m-0 mt-1 font-semibold text-doubt" data-says>
      {children}
    </p>
  )
}

export function Key({ children }: { children: ReactNode }) {
  return (
    <span className="key" aria-hidden="true">
      {children}
    </span>
  )
}

export function Shape({ n, size = 16 }: { n: number; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="-12 -12 24 24" aria-hidden="true" className="inline-block shrink-0">
      <path d={shapeOf(n)(9.5)} fill={colourOf(n)} />
    </svg>
  )
}

/** A sheet over the page: one question, closed by Escape. */
export function Sheet({ open, onClose, title, children, wide = false }: { open: boolean; onClose: () => void; title: string; children: ReactNode; wide?: boolean }) {
  return (
    <RadixDialog.Root open={open} onOpenChange={(o) => (o ? undefined : onClose())}>
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-20 bg-black/45" />
        <RadixDialog.Content
          className={`fixed left-1/2 top-1/2 z-30 max-h-[92dvh] w-[min(94vw,var(--w))] -translate-x-1/2 -translate-y-1/2 overflow-auto border-t-[10px] border-tape bg-floor p-6 text-ink`}
          style={{ ['--w' as string]: wide ? '56rem' : '34rem' }}
          onCloseAutoFocus={(e) => {
            if (document.getElementById('timer-0')) e.preventDefault()
          }}
        >
          <RadixDialog.Title className="m-0 mb-3 text-[1.7rem]">{title}</RadixDialog.Title>
          <VisuallyHidden.Root>
            <RadixDialog.Description>{title}</RadixDialog.Description>
          </VisuallyHidden.Root>
          {children}
          <RadixDialog.Close className="btn btn-plain absolute right-3 top-3">Close</RadixDialog.Close>
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  )
}

/** While an answer is on its way: grey lines where the words will stand. */
export function Skeleton({ lines = 3 }: { lines?: number }) {
  return (
    <main aria-busy="true" className="grid gap-4 p-8">
      <h1 className="sr-only" role="status">
        Loading
      </h1>
      {Array.from({ length: lines }, (_, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines have no identity
        <div key={i} className="h-7 bg-hair" style={{ width: `${70 - i * 13}%` }} />
      ))}
    </main>
  )
}

export function Trouble({ error, again }: { error: unknown; again?: () => void }) {
  return (
    <div role="alert" className="p-8">
      <Says>{error instanceof Error ? error.message : 'Something went wrong.'}</Says>
      {again ? (
        <button type="button" className="btn mt-4" onClick={again}>
          Try again
        </button>
      ) : null}
    </div>
  )
}
