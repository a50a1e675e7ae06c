import { useEffect, useState } from 'react'
import type { Joining, Study } from '../data/api'
import { useRota } from '../data/queries'
import { counted } from '../parts/counted'
import { Scan } from '../parts/Scan'

/** The picture to scan, with the signs that are typed as a line under it. */
export function Signs({ joining }: { joining: Joining }) {
  return (
    <>
      <Scan of={joining} opens={joining.address} className="w-full max-w-[20rem]" />
      <p className="m-0 text-[1.1rem]">
        Scan, or type at <strong>{joining.address.replace(/^https?:\/\//, '')}</strong>
      </p>
      <p className="big m-0 whitespace-nowrap text-[4rem] leading-none" data-signs>
        {joining.code}
      </p>
      <p className="m-0 text-quiet">good until {clock(joining.until ?? '')}, for this class</p>
    </>
  )
}

const clock = (time: string) => new Date(time).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })

/** Every group with its lane, and which devices are in. onOut: send one out, which only the teacher may. */
export function WhoIsIn({ study, joining, busy = false, onOut }: { study: Study; joining: Joining; busy?: boolean; onOut?: (seat: string) => void }) {
  const rota = useRota(study.id).data
  const named = (study.draft.groups ?? []).map((g) => g.trim()).filter(Boolean)
  const groups = named.length ? named : [...new Set(study.turns.map((t) => t.group))].filter(Boolean)
  const of = (g: string) => joining.seats.filter((s) => s.role === 'group' && s.label === g)
  const lane = (g: string) => rota?.rota.sittings.find((s) => s.group === g && s.lane)?.lane ?? study.turns.find((t) => t.group === g)?.lane
  const [now, setNow] = useState(() => Date.now())
  useEffect(() => {
    const tick = setInterval(() => setNow(Date.now()), 30_000)
    return () => clearInterval(tick)
  }, [])
  const others = joining.seats.filter((s) => s.role !== 'group' || !groups.includes(s.label))
  const came = groups.filter((g) => of(g).length).length
  const out = (seat: Joining['seats'][number]) =>
    onOut ? (
      <button key={seat.id} type="button" className="btn btn-plain" disabled={busy} onClick={() => onOut(seat.id)}>
        Send out<span className="sr-only"> {seat.label}</span>
      </button>
    ) : null
  const since = (seat: Joining['seats'][number]) => {
    const min = Math.floor((now - Date.parse(seat.joined_at)) / 60_000)
    return [seat.device.split(' at ')[0], min < 1 ? 'just now' : `for ${min} min`].filter(Boolean).join(', ')
  }
  return (
    <section aria-label="Who is in">
      <p className="m-0 border-b-2 border-ink pb-2 text-[1.2rem]" aria-live="polite">
        {groups.length ? (
          <>
            <strong>
              {came} of {groups.length}
            </strong>{' '}
            {groups.length === 1 ? 'group is' : 'groups are'} in
          </>
        ) : joining.seats.length ? (
          counted(joining.seats.length, 'device')
        ) : (
          'No device is in yet'
        )}
        {others.length ? `, and ${counted(others.length, 'other')}` : ''}
      </p>
      <ul className="m-0 list-none p-0">
        {groups.map((g) => (
          <li
            key={g}
            className="grid grid-cols-[2.2rem_minmax(0,1fr)_auto] items-baseline gap-x-4 border-b border-hair py-2"
            data-group={g}
            data-in={of(g).length}
          >
            <span className="big text-[2rem]" aria-hidden="true">
              {of(g).length ? '✓' : '·'}
            </span>
            <span className={`big text-[clamp(2rem,4.5vw,3.6rem)] leading-none ${of(g).length ? '' : 'text-quiet'}`}>{g}</span>
            <span className="text-[1.2rem] text-quiet">{lane(g) ? `lane ${lane(g)}` : ''}</span>
            {onOut ? (
              <>
                <span />
                <span className="col-span-2 flex flex-wrap items-center gap-x-4 text-quiet">
                  {of(g).length
                    ? of(g).map((s) => (
                        <span key={s.id}>
                          {since(s)} {out(s)}
                        </span>
                      ))
                    : 'not here yet'}
                </span>
              </>
            ) : null}
          </li>
        ))}
        {(onOut ? others : []).map((s) => (
          <li key={s.id} className="flex flex-wrap items-center gap-x-4 border-b border-hair py-2">
            <span className="big text-[1.5rem]">{s.label}</span>
            <span className="text-quiet">{since(s)}</span>
            {out(s)}
          </li>
        ))}
      </ul>
    </section>
  )
}
