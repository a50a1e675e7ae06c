import { Link } from 'react-router'
import { useMay } from '../../data/may'
import { ITEM, Item, Menu } from '../../parts/Menu'
import { Key } from '../../parts/parts'
import type { Open } from './LaneButtons'

/** What is needed now and then at a lane, behind one button. */
export function Ways({ studyId, ways, onSheet }: { studyId: string; ways: readonly (readonly [Open, string])[]; onSheet: (sheet: Open) => void }) {
  const may = useMay()
  return (
    <Menu label="Other ways">
      {ways
        .filter(([sheet]) => may('lead') || sheet !== 'instruments')
        .map(([sheet, label]) => (
          <Item key={sheet} className={ITEM} onSelect={() => onSheet(sheet)}>
            {label}
          </Item>
        ))}
      <Item className={ITEM} asChild>
        <Link to={`/study/${studyId}/felt`}>This device in the carrier</Link>
      </Item>
      <Item className={`${ITEM} max-md:hidden`} onSelect={() => onSheet('keys')}>
        <span className="grow">Keys</span> <Key>?</Key>
      </Item>
      {!may('lead') ? null : (
        <Item className={ITEM} asChild>
          <Link to={`/study/${studyId}/sheet`}>Sheet on paper, or typed in</Link>
        </Item>
      )}
      {!may('run') ? null : (
        <Item className={ITEM} asChild>
          <Link to={`/study/${studyId}/desk`}>The desk: every lane at once</Link>
        </Item>
      )}
      <Item className={ITEM} asChild>
        <Link to={`/study/${studyId}/wall`} target="_blank" rel="noreferrer">
          The lesson on the wall
        </Link>
      </Item>
    </Menu>
  )
}
