import { DropdownMenu } from 'radix-ui'
import { Link } from 'react-router'
import { Key } from '../../parts/parts'
import type { Open } from './LaneButtons'

const ITEM =
  'flex min-h-[48px] cursor-pointer items-center px-3 font-semibold text-ink no-underline outline-none data-[highlighted]:bg-tape data-[highlighted]:text-tape-ink'

/** What is needed now and then at a lane, behind one button. */
export function Ways({ studyId, ways, onSheet }: { studyId: string; ways: readonly (readonly [Open, string])[]; onSheet: (sheet: Open) => void }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="btn btn-plain">Other ways</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="z-20 grid min-w-[16rem] border-2 border-ink bg-floor p-1" sideOffset={4} collisionPadding={8}>
          {ways.map(([sheet, label]) => (
            <DropdownMenu.Item key={sheet} className={ITEM} onSelect={() => onSheet(sheet)}>
              {label}
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Item className={`${ITEM} max-md:hidden`} onSelect={() => onSheet('keys')}>
            <span className="grow">Keys</span> <Key>?</Key>
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} asChild>
            <Link to={`/study/${studyId}/sheet`}>Sheet on paper, or typed in</Link>
          </DropdownMenu.Item>
          <DropdownMenu.Item className={ITEM} asChild>
            <Link to={`/study/${studyId}/wall`} target="_blank" rel="noreferrer">
              The lesson on the wall
            </Link>
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
