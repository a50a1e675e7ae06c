import { Dialog as RadixDialog, VisuallyHidden } from 'radix-ui'
import type { ReactNode } from 'react'

export type SheetAsked = { open: boolean; onClose: () => void; title: string; children: ReactNode; wide?: boolean }

/** What `Sheet` shows, over everything else. */
export function Over({ open, onClose, title, children, wide = false }: SheetAsked) {
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
