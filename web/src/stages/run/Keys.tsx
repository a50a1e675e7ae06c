import { Key, Sheet } from '../../parts/parts'

const IN_HEATS: [string, string][] = [
  ['Space', 'release: all of them are let go'],
  ['1 … 6', 'landed, by lane'],
  ['Enter', 'keep the heat'],
  ['V', 'void a lane, then a digit for the fault'],
  ['U', 'not released together: the heat comes again'],
  ['Z', 'undo the last landing, or the last heat'],
  ['P', 'a practice: recorded, not counted'],
  ['N', 'who releases and how things stand now'],
  ['D', 'count down'],
  ['?', 'this sheet'],
]

/** The keys of the lane; heat: where several are let go together. */
export function KeySheet({
  open,
  onClose,
  timed = false,
  words = false,
  heat = false,
}: {
  open: boolean
  onClose: () => void
  timed?: boolean
  words?: boolean
  heat?: boolean
}) {
  const alone: [string, string][] = [
    ...(timed ? ([['Space', 'release, then landed']] as [string, string][]) : []),
    ...(words ? ([['1 2 3', 'the outcome, the best first']] as [string, string][]) : []),
    ['Enter', 'keep the reading'],
    ['V', 'void, then a digit for the fault'],
    ['Z', 'undo the last trial'],
    ['+', 'at the end of a reading: at least this'],
    ['~', 'before a reading: an estimate'],
    ...(timed ? ([['L', 'a mark passed while the time runs']] as [string, string][]) : []),
    ['S', 'skip: this turn comes later'],
    ['P', 'a practice: recorded, not counted'],
    ['N', 'who releases and how things stand now'],
    ['D', 'count down (while the field is empty)'],
    ['?', 'this sheet'],
  ]
  const keys = heat ? IN_HEATS : alone
  return (
    <Sheet open={open} onClose={onClose} title="Keys">
      <dl className="m-0 grid grid-cols-[6rem_1fr] gap-y-3 text-[1.1rem]">
        {keys.map(([key, what]) => (
          <div key={key} className="contents">
            <dt>
              <Key>{key}</Key>
              <span className="sr-only">{key}</span>
            </dt>
            <dd className="m-0">{what}</dd>
          </div>
        ))}
      </dl>
      <p className="mb-0 mt-5 text-quiet">
        A reading may be written as 4.52, 452 cm, 14 ft 10 in, 4 m 52 cm, ≥3.8 m, ~4 m, 35-40 ft, 1:03.4 or 126 frames @ 240 fps.
      </p>
    </Sheet>
  )
}
