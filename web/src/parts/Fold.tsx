import { type ReactNode, useEffect, useId, useState } from 'react'
import { typed } from '../data/keep'

const KEY = 'unfold'
const heard = new Set<() => void>()

/** Whether every part of a long page stands open: the teacher's choice, kept in the browser. */
export const unfolded = (): boolean => typed.get(KEY) === 'all'
export function setUnfolded(all: boolean): void {
  typed.set(KEY, all ? 'all' : '')
  for (const hear of heard) hear()
}

/** A part of a long page that folds into one line saying what stands in it. What is missing is open. */
export function Fold({
  n,
  title,
  says,
  missing,
  id,
  paper,
  children,
}: {
  n: string
  title: string
  says: string
  missing: boolean
  id?: string
  /** What stands on paper below its line. */
  paper?: ReactNode
  children: ReactNode
}) {
  const [all, setAll] = useState(unfolded)
  const [opened, setOpened] = useState<boolean>()
  const [wasMissing] = useState(missing)
  const body = useId()
  useEffect(() => {
    const hear = () => {
      setAll(unfolded())
      setOpened(undefined)
    }
    heard.add(hear)
    return () => void heard.delete(hear)
  }, [])
  // what was missing when the page was opened stays open while it is filled in; what becomes missing opens
  const open = opened ?? (all || missing || wasMissing)
  return (
    <section aria-label={title} id={id} className="grid grid-cols-[minmax(0,1fr)] gap-5 border-t-2 border-ink pt-3">
      <h2 className="m-0 text-[1.7rem]">
        <button
          type="button"
          aria-expanded={open}
          aria-controls={body}
          className="flex min-h-[48px] w-full cursor-pointer items-baseline gap-x-3 border-0 bg-transparent p-0 text-left font-[inherit] text-[inherit] text-ink [font-stretch:inherit]"
          onClick={() => setOpened(!open)}
        >
          {n ? <span className="text-quiet">{n}</span> : null}
          <span className="min-w-0 grow">
            {title}
            {open ? (
              // on paper an open part stands as its line, which is not said twice on the screen
              <span
                className="hidden text-[1.02rem] font-normal leading-snug [font-stretch:100%] print:block print:after:content-[attr(data-says)]"
                style={{ fontFamily: 'var(--font-text)' }}
                data-says={says}
              />
            ) : (
              <span className="mt-0.5 block text-[1.02rem] font-normal leading-snug [font-stretch:100%]" style={{ fontFamily: 'var(--font-text)' }} data-folded>
                {says}
              </span>
            )}
          </span>
          <span
            className="no-print shrink-0 self-start pt-2 text-[0.92rem] font-semibold underline underline-offset-4 [font-stretch:100%]"
            style={{ fontFamily: 'var(--font-text)' }}
            aria-hidden="true"
          >
            {open ? 'Fold' : 'Open'}
          </span>
        </button>
      </h2>
      {paper ? <div className="hidden print:block">{paper}</div> : null}
      <div id={body} hidden={!open} className={open ? 'grid grid-cols-[minmax(0,1fr)] gap-5 pb-2 print:hidden' : undefined}>
        {open ? children : null}
      </div>
    </section>
  )
}

export function FoldAll() {
  const [all, setAll] = useState(unfolded)
  return (
    <button
      type="button"
      className="btn btn-plain -mb-4 justify-self-end px-0"
      onClick={() => {
        setUnfolded(!all)
        setAll(!all)
      }}
    >
      {all ? 'Fold every part' : 'Open every part'}
    </button>
  )
}
