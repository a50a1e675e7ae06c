import { useEffect, useRef } from 'react'
import type { Conclusion, Study, Version } from '../../data/api'
import { glued } from '../../parts/glue'
import { faces, Look } from './Bench'

type Came = Conclusion['versions'][number]

/** The shelf as a story: every version of every device, what was changed from one to the next, and what came of it. */
export function Story({
  study,
  versions,
  came,
  open,
  onShow,
}: {
  study: Study
  versions: readonly Version[]
  /** As the conclusion has them; empty while nothing can be concluded. */
  came: readonly Came[]
  open: Version | undefined
  onShow: (id: string) => void
}) {
  const strip = useRef<HTMLDivElement>(null)
  // biome-ignore lint/correctness/useExhaustiveDependencies: whichever is open is brought into sight
  useEffect(() => {
    const here = strip.current?.querySelector<HTMLElement>('[aria-current]')
    if (here && strip.current) strip.current.scrollLeft = here.offsetLeft - strip.current.clientWidth + here.offsetWidth + 24
  }, [open?.id])
  const tried = came.some((c) => c.result)
  return (
    <div ref={strip} tabIndex={0} role="region" className="relative snap-x overflow-x-auto pb-2" aria-label="Versions on the shelf">
      <ol className="m-0 flex list-none items-stretch p-0">
        {versions.map((v, i) => {
          const first = versions[i - 1]?.device !== v.device
          const since = first || !v.draft.since ? [] : v.changed
          return (
            <li key={v.id} className="flex shrink-0 snap-end items-stretch">
              {first ? (
                i > 0 ? (
                  <span className="mx-3 w-[2px] self-stretch bg-hair" />
                ) : null
              ) : (
                <Arrow changed={since} from={v.draft.since ?? 0} to={v.number} />
              )}
              <OneVersion
                study={study}
                version={v}
                named={first}
                came={came.find((c) => c.device === v.device && c.number === v.number)}
                tried={tried}
                open={v.id === open?.id}
                onShow={onShow}
              />
            </li>
          )
        })}
      </ol>
    </div>
  )
}

/** One version on the shelf: its number, how it looks, what came of it; a failed one is struck through. */
function OneVersion({
  study,
  version,
  named,
  came,
  tried,
  open,
  onShow,
}: {
  study: Study
  version: Version
  named: boolean
  came: Came | undefined
  tried: boolean
  open: boolean
  onShow: (id: string) => void
}) {
  const face = faces(version, version.draft)[0] ?? 'nothing'
  const failed = version.draft.failed
  return (
    <button
      type="button"
      aria-current={open ? 'true' : undefined}
      className={`grid w-[116px] grid-rows-[auto_76px_auto] border-0 px-2 pt-1 text-left text-ink ${open ? 'bg-tape/35' : 'bg-transparent hover:bg-tape/20'}`}
      onClick={() => onShow(version.id)}
    >
      <span className="sr-only">{`${version.device}, version ${version.number}`}</span>
      <span className="flex items-baseline gap-2" aria-hidden="true">
        <span className={`big text-[1.5rem] leading-none ${failed ? 'line-through decoration-[3px]' : ''}`}>{version.number}</span>
        {named ? <span className="min-w-0 truncate text-[0.95rem] font-semibold">{version.device}</span> : null}
      </span>
      <span className="relative block py-1" aria-hidden="true">
        <Look study={study.id} version={version} draft={version.draft} face={face} small />
        {failed ? (
          <svg className="absolute inset-0 h-full w-full" viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden="true">
            <path d="M 6 88 L 94 12" stroke="var(--ink)" strokeWidth={3} vectorEffect="non-scaling-stroke" />
          </svg>
        ) : null}
      </span>
      <span className="border-t-2 border-ink pt-1">
        <span className="big block text-[1.1rem] leading-tight">
          {came?.result ? glued(came.result) : tried && study.draft.study_kind !== 'fair_test' ? 'not tried yet' : '\u00a0'}
        </span>
        <span className="text-[0.88rem] text-quiet">{failed ? 'failed' : version.draft.mass}</span>
      </span>
    </button>
  )
}

const COUNTED = ['', '', 'two at once', 'three at once', 'four at once']

/** What was changed from one version to the next; more than one thing at once is told in words and by a second stroke. */
function Arrow({ changed, from, to }: { changed: Version['changed']; from: number; to: number }) {
  const many = changed.length > 1
  return (
    <span className={`flex w-[94px] flex-col justify-center px-1 text-center ${many ? 'text-doubt' : ''}`} data-arrow={`${from} ${to}`}>
      <span className="text-[0.88rem] font-semibold leading-tight">
        {changed.slice(0, 2).map((c, i) => (
          <span key={c.name} className="block [overflow-wrap:anywhere]">
            {i ? '+ ' : ''}
            {c.name}
            {many || !c.now || c.now.length > 6 ? '' : ` ${c.was ? `${c.was}\u00a0→\u00a0` : ''}${c.now}`}
          </span>
        ))}
        {changed.length > 2 ? <span className="block">+ {changed.length - 2} more</span> : null}
        {changed.length ? null : <span className="block text-quiet">nothing written</span>}
      </span>
      <svg viewBox="0 0 80 16" className="my-1 h-[16px] w-full" aria-hidden="true">
        <path
          d={many ? 'M 6 5 H 68 M 6 11 H 68 M 60 1 L 72 8 L 60 15' : 'M 6 8 H 72 M 62 2 L 72 8 L 62 14'}
          fill="none"
          stroke="currentColor"
          strokeWidth={2}
        />
      </svg>
      <span className="text-[0.88rem] leading-tight">
        {many ? (COUNTED[changed.length] ?? `${changed.length} at once`) : ''}
        {from === to - 1 || !from ? '' : `${many ? '; ' : ''}from version ${from}`}
      </span>
    </span>
  )
}
