import { counted } from './counted'
import { lazy, Suspense, useState } from 'react'
import { useMe } from '../data/queries'
import { useQueue } from '../data/useQueue'

const WaitingSheet = lazy(async () => ({ default: (await import('./Waiting')).WaitingSheet }))

/** A time as it is said, to its largest part. */
function inWords(seconds: number): string {
  const [n, word] = seconds >= 2 * 86_400 ? [seconds / 86_400, 'day'] : seconds >= 7_200 ? [seconds / 3_600, 'hour'] : [seconds / 60, 'minute']
  const whole = Math.round(n)
  return counted(whole, word)
}

const HOLDS = {
  all: '',
  no_copies: 'This browser’s store is full: without the network its pages may have nothing to show.',
  nothing: 'This browser cannot hold trials. Keep this page open until they are sent.',
}

/** What is not yet on the server, always in sight; opens to mend what was refused. */
export function WaitingNote() {
  const { waiting, others, writing, sending, clockOffS, holds } = useQueue()
  const school = useMe().data?.school
  const [open, setOpen] = useState(false)
  const [seenClock, setSeenClock] = useState(false)
  const refused = waiting.filter((w) => w.refused).length
  const theirs = others.filter((w) => school && w.school === school)
  const held = waiting.length - writing // "waiting" is only said of what this browser really holds
  const words = refused
    ? `${refused} to correct`
    : held > 0
      ? `${held} waiting${sending === 'signed_out' ? ': sign in again' : ' to send'}`
      : theirs.length
        ? `${theirs.length} waiting${theirs[0]?.by ? ` of ${theirs[0].by}` : ' of a colleague'}`
        : ''
  return (
    <>
      <div role="status" aria-live="polite" className="flex min-w-0 flex-wrap items-center gap-x-3 xl:shrink!">
        {words ? (
          <button type="button" className="btn btn-plain text-doubt" onClick={() => setOpen(true)}>
            {words}
          </button>
        ) : clockOffS && !seenClock ? (
          <span className="flex items-center px-2 text-[0.92rem] font-semibold text-doubt" data-clock>
            This device’s clock is {inWords(Math.abs(clockOffS))} {clockOffS > 0 ? 'slow' : 'fast'}. Bendro puts the times right; set it when you can.
            <button type="button" className="btn btn-plain" onClick={() => setSeenClock(true)}>
              Good
            </button>
          </span>
        ) : null}
        {holds === 'all' ? null : (
          <span className="px-2 text-[0.92rem] font-semibold text-doubt" data-holds={holds}>
            {HOLDS[holds]}
          </span>
        )}
      </div>
      {open && (waiting.length || theirs.length) ? (
        <Suspense fallback={null}>
          <WaitingSheet onClose={() => setOpen(false)} />
        </Suspense>
      ) : null}
    </>
  )
}
