import { useCallback, useEffect, useRef, useState } from 'react'
import { api, ask, Refusal, type Study } from '../../data/api'
import { Pick, Sheet, Tick, Told } from '../../parts/parts'
import type { Listening } from './useInstruments'

/** How an instrument finds this lane, and stand-ins for those that are not there. */
export function InstrumentsSheet({
  open,
  onClose,
  study,
  state,
  on,
  onOn,
  told,
  lanes = 0,
}: {
  open: boolean
  onClose: () => void
  study: Study
  state: Listening
  on: boolean
  onOn: (on: boolean) => void
  told: readonly string[]
  /** So many are let go together. */
  lanes?: number
}) {
  const [code, setCode] = useState('')
  const [says, setSays] = useState('')
  const kinds = study.instruments
  const [kind, setKind] = useState<Study['instruments'][number][0]>(kinds[0]?.[0] ?? 'gate')
  const [faults, setFaults] = useState(false)
  const sent = useRef(1)
  const path = { study_id: study.id }
  /** anew: whoever knows the code that stands there sends to nobody from now on. */
  const ask_ = useCallback(
    (anew: boolean) =>
      ask(api.POST('/api/studies/{study_id}/instruments', { params: { path: { study_id: study.id }, query: { anew } } }))
        .then((found) => setCode(found.code))
        .catch((why: unknown) => setSays(why instanceof Refusal ? why.message : String(why))),
    [study.id],
  )
  useEffect(() => {
    if (open) void ask_(false)
  }, [open, ask_])
  const simulate = async () => {
    setSays('')
    try {
      const answers = await ask(
        api.POST('/api/studies/{study_id}/instruments/simulate', {
          params: { path },
          body: { instrument: kind, trials: 1, faults, first: sent.current, lanes },
        }),
      )
      sent.current += 1 + Math.max(1, lanes)
      const nobody = answers.find((a) => a.state === 'nobody')
      if (nobody) setSays(String(nobody.says))
    } catch (why) {
      if (!(why instanceof Refusal)) throw why
      setSays(why.message)
    }
  }
  return (
    <Sheet open={open} onClose={onClose} title="Instruments" wide>
      <div className="grid gap-4">
        <p className="m-0 text-quiet">
          A gate, a scale, a meter or a sound trigger on the same network sends lines of JSON to this lane.{' '}
          {lanes ? 'One release, then a landing for each lane; the heat is kept when the last is down.' : 'Its reading stands in the field; Enter keeps it.'}
        </p>
        <Tick checked={on} onChange={onOn}>
          Listen to instruments at this lane
        </Tick>
        <p className="m-0" role="status" data-listening={state}>
          {state === 'listening'
            ? 'This lane listens.'
            : state === 'away'
              ? 'The server cannot be reached; it is tried again by itself.'
              : state === 'ended'
                ? 'The sign-in has ended. Sign in again, and this lane listens again by itself.'
                : 'This lane does not listen.'}
        </p>
        {code ? (
          <p className="m-0">
            Send to <code className="break-all">{`${location.origin}/api/instruments/${code}`}</code>. The code is{' '}
            <strong className="big text-[1.3rem]">{code}</strong>. It is good while this run is open. How a line looks is in docs/instruments.md.{' '}
            <button type="button" className="btn btn-plain" onClick={() => void ask_(true)}>
              Make a new code
            </button>
          </p>
        ) : null}
        {kinds.length ? (
          <fieldset className="hair m-0 grid gap-3 border-x-0 border-b-0 p-0 pt-3">
            <legend className="sr-only">Without an instrument</legend>
            <p className="m-0 font-semibold">No instrument at hand: a made-up one sends one trial</p>
            <div className="flex flex-wrap items-end gap-4">
              <Pick label="Made-up instrument" value={kind} options={kinds} onChange={setKind} />
              <button type="button" className="btn" disabled={!on} onClick={() => void simulate()}>
                Send one
              </button>
            </div>
            <Tick checked={faults} onChange={setFaults}>
              Lose, double and delay some events
            </Tick>
          </fieldset>
        ) : null}
        <Told says={says} />
        {told.length ? (
          <ul className="m-0 list-none p-0" aria-label="Heard last">
            {told.map((t, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the same words may come twice
              <li key={i} className="hair py-1">
                {t}
              </li>
            ))}
          </ul>
        ) : null}
      </div>
    </Sheet>
  )
}
