import { useState } from 'react'
import { v4 as uuid } from 'uuid'
import { type Ahead, api, ask, type Draft, type Limit, type Study } from '../../data/api'
import { tookStudy } from '../../data/usePlan'
import { Line, Pick, Says, Sheet, Tick } from '../../parts/parts'
import type { PartOf } from '../../planning/problems'

type Place = Ahead['limits'][number]
const placeKey = (l: { on: string; name?: string | undefined }) => `${l.on}:${l.on === 'held' ? (l.name ?? '') : ''}`

/** The limits with one changed, added or taken away: a limit is known by the quantity that it binds to. */
export function withLimit(draft: Draft, place: Place, value: string): Pick_ {
  const others = (draft.limits ?? []).filter((l) => placeKey(l) !== placeKey(place))
  const at = (draft.limits ?? []).findIndex((l) => placeKey(l) === placeKey(place))
  const next: Limit = { on: place.on, name: place.on === 'held' ? place.name : '', value }
  if (at < 0) return { limits: [...others, next] }
  return { limits: (draft.limits ?? []).map((l, i) => (i === at ? next : l)) }
}
type Pick_ = { limits: Limit[] }
export const limitOn = (draft: Draft, place: Place): string => (draft.limits ?? []).find((l) => placeKey(l) === placeKey(place))?.value ?? ''

/** The cautions, the teacher's own limits, and the sign-off of the adult in charge. Nothing here says that a launch is safe. */
export function SafetyPart({ draft, change, at, study, ahead, settled }: PartOf & { study: Study; ahead: Ahead | undefined; settled: () => Promise<void> }) {
  const [open, setOpen] = useState(false)
  const limits = draft.limits ?? []
  const places = ahead?.limits ?? []
  // what is needed is asked for outright, and stays in its place while it is written
  const [held, setHeld] = useState<string[]>([])
  const needed = places.filter((p) => p.needed && p.on !== 'variable' && !limitOn(draft, p)).map(placeKey)
  const directKeys = [...new Set([...held, ...needed])]
  if (directKeys.length > held.length) setHeld(directKeys)
  const direct = places.filter((p) => directKeys.includes(placeKey(p)))
  const set = (i: number, part: Partial<Limit>) => change({ limits: limits.map((l, j) => (j === i ? { ...l, ...part } : l)) })
  const signed = study.sign_off
  const options = (limit: Limit) => [
    ['', 'Choose …'] as const,
    ...places.map((p) => [placeKey(p), p.label] as const),
    ...(limit.on && !places.some((p) => placeKey(p) === placeKey(limit)) ? [[placeKey(limit), `${limit.name || 'something'}, not in this plan`] as const] : []),
  ]
  const choose = (i: number, key: string) => {
    const place = places.find((p) => placeKey(p) === key)
    set(i, { on: place?.on ?? '', name: place?.on === 'held' ? place.name : '' })
  }
  const free =
    places.find((p) => !limits.some((l) => placeKey(l) === placeKey(p)) && p.needed) ?? places.find((p) => !limits.some((l) => placeKey(l) === placeKey(p)))
  const waits = study.problems.find((p) => p.grave && /^(limit_|held_|level_over|height_over)/.test(p.code))
  return (
    <>
      {study.cautions.length ? (
        <ul className="m-0 grid gap-2 pl-5">
          {study.cautions.map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
      ) : (
        <p className="m-0 text-quiet">Choose the family of devices; it brings the cautions.</p>
      )}
      <p className="m-0 text-quiet">Your school’s own risk assessment, local rules and qualified staff decide; this list does not replace them.</p>
      <div className="grid gap-3" id="limits">
        {direct.map((place) => (
          <div key={placeKey(place)} className="max-w-96">
            <Line
              label={`Your limit on ${place.label}: never above`}
              big
              says={at(`limits.${limits.findIndex((l) => placeKey(l) === placeKey(place))}`)}
              value={limitOn(draft, place)}
              placeholder={`10 ${place.unit === 'count' ? '' : place.unit}`}
              onChange={(value) => change(withLimit(draft, place, value))}
            />
          </div>
        ))}
        {limits.map((limit, i) =>
          directKeys.includes(placeKey(limit)) ? null : (
            // biome-ignore lint/suspicious/noArrayIndexKey: a limit has no identity but its place
            <div key={i} className="grid grid-cols-[1fr_8rem_auto] items-start gap-4">
              <Pick label="Your limit on" value={limit.on ? placeKey(limit) : ''} options={options(limit)} onChange={(key) => choose(i, key)} />
              <Line label="never above" says={at(`limits.${i}`)} value={limit.value ?? ''} placeholder="2 bar" onChange={(value) => set(i, { value })} />
              <button
                type="button"
                className="btn btn-plain mt-5"
                aria-label={`Remove the limit on ${places.find((p) => placeKey(p) === placeKey(limit))?.label ?? 'it'}`}
                onClick={() => change({ limits: limits.filter((_, j) => j !== i) })}
              >
                ×
              </button>
            </div>
          ),
        )}
        {at('limits') ? <Says>{at('limits')}</Says> : null}
        <button
          type="button"
          className="btn justify-self-start"
          disabled={!free}
          onClick={() => (free ? change({ limits: [...limits, { on: free.on, name: free.on === 'held' ? free.name : '', value: '' }] }) : undefined)}
        >
          Set a limit
        </button>
      </div>
      <div className="hair flex flex-wrap items-center gap-x-6 gap-y-2 pt-4">
        <p className="m-0 grow">
          {signed ? (
            <>
              Signed off by <strong>{signed.adult}</strong>,{' '}
              {new Date(signed.signed_at).toLocaleString('en-GB', { weekday: 'long', day: 'numeric', month: 'long', hour: '2-digit', minute: '2-digit' })}.
              {signed.covers ? '' : ' Levels, limits, drops or adults have changed since: it no longer covers this plan.'}
            </>
          ) : (
            'Not signed off yet. The cautions are ticked again at the start of every run.'
          )}{' '}
          {waits ? <strong className="text-doubt">{waits.says}</strong> : null}
        </p>
        <button type="button" className="btn" disabled={!study.cautions.length || Boolean(waits)} onClick={() => void settled().then(() => setOpen(true))}>
          {signed ? 'Sign off again' : 'Sign off the plan'}
        </button>
      </div>
      <SignOff open={open} onClose={() => setOpen(false)} study={study} />
    </>
  )
}

function SignOff({ open, onClose, study }: { open: boolean; onClose: () => void; study: Study }) {
  const [ticked, setTicked] = useState<string[]>([])
  const [adult, setAdult] = useState('')
  const [says, setSays] = useState('')
  const [id] = useState(() => uuid())
  const sign = async () => {
    try {
      tookStudy(
        (await ask(
          api.POST('/api/studies/{study_id}/sign-off', {
            params: { path: { study_id: study.id } },
            body: { id: study.sign_off ? uuid() : id, adult, cautions: ticked },
          }),
        )) as Study,
      )
      setTicked([])
      onClose()
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <Sheet open={open} onClose={onClose} title="Sign off the plan" wide>
      <p className="mt-0">
        The adult in charge has read each line for this plan. It does not say that anything is safe; your school’s own risk assessment decides.
      </p>
      <div className="grid gap-2">
        {study.cautions.map((c) => (
          <Tick key={c} checked={ticked.includes(c)} onChange={(on) => setTicked(on ? [...ticked, c] : ticked.filter((x) => x !== c))}>
            {c}
          </Tick>
        ))}
      </div>
      <div className="mt-4 max-w-md">
        <Line label="Adult in charge, by role" value={adult} placeholder="class teacher" onChange={setAdult} />
      </div>
      {says ? <Says>{says}</Says> : null}
      <button type="button" className="btn btn-act mt-5" disabled={ticked.length < study.cautions.length || !adult.trim()} onClick={() => void sign()}>
        Sign off
      </button>
    </Sheet>
  )
}
