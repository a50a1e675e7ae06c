import { DropdownMenu } from 'radix-ui'
import type { ReactNode } from 'react'

/** How one line of a menu looks and how large it is for a thumb. */
export const ITEM =
  'flex min-h-[48px] cursor-pointer items-center px-3 font-semibold text-ink no-underline outline-none data-[highlighted]:bg-tape data-[highlighted]:text-tape-ink'

export const Item = DropdownMenu.Item

/** A few acts behind one button. */
export function Menu({ label, className = 'btn btn-plain', children }: { label: string; className?: string; children: ReactNode }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className={className}>{label}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        {/* a menu that is longer than the room above or below its button scrolls */}
        <DropdownMenu.Content
          className="z-20 grid max-h-[var(--radix-dropdown-menu-content-available-height)] min-w-[16rem] overflow-y-auto border-2 border-ink bg-floor p-1"
          sideOffset={4}
          collisionPadding={8}
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
