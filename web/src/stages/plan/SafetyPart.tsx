import { useState } from 'react'
import { v4 as uuid } from 'uuid'
import { api, ask, type Family, type Study } from '../../data/api'
import { tookStudy } from '../../data/usePlan'
import { Line, Says, Sheet, Tick } from '../../parts/parts'
import type { PartOf } from './problems'

const USUAL = ['pressure', 'height', 'pull-back', 'counterweight', 'speed']

/** The family's cautions, the teacher's own limits, and the sign-off of the adult in charge. Nothing here says that a launch is safe. */
export function SafetyPart({ draft, change, at, family, study, settled }: PartOf & { family: Family | undefined; study: Study; settled: () => Promise<void> }) {
  const [open, setOpen] = useState(false)
  const limits = draft.limits ?? []
  const set = (i: number, part: { name?: string; value?: string }) => change({ limits: limits.map((l, j) => (j === i ? { ...l, ...part } : l)) })
  const signed = study.sign_off
  return (
    <>
      {family ? (
        <ul className="m-0 grid gap-2 pl-5">
          {family.cautions.map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
      ) : (
        <p className="m-0 text-quiet">Choose the family of devices; it brings the cautions.</p>
      )}
      <p className="m-0 text-quiet">Your school’s own risk assessment, local rules and qualified staff decide; this list does not replace them.</p>
      <div className="grid gap-3">
        {limits.map((limit, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a limit has no identity but its place
          <div key={i} className="grid grid-cols-[1fr_8rem_auto] items-start gap-4">
            <Line label="Your limit on" value={limit.name ?? ''} placeholder={USUAL.join(', ')} onChange={(name) => set(i, { name })} />
            <Line label="never above" says={at(`limits.${i}`)} value={limit.value ?? ''} placeholder="2 bar" onChange={(value) => set(i, { value })} />
            <button type="button" className="btn btn-plain mt-5" aria-label={`Take the limit on ${limit.name || 'it'} away`} onClick={() => change({ limits: limits.filter((_, j) => j !== i) })}>
              ×
            </button>
          </div>
        ))}
        <button type="button" className="btn justify-self-start" onClick={() => change({ limits: [...limits, { name: USUAL.find((u) => !limits.some((l) => l.name === u)) ?? '', value: '' }] })}>
          Set a limit
        </button>
      </div>
      <div className="hair flex flex-wrap items-center gap-x-6 gap-y-2 pt-4">
        <p className="m-0 grow">
          {signed ? (
            <>
              Signed off by <strong>{signed.adult}</strong>, {new Date(signed.signed_at).toLocaleString('en-GB', { weekday: 'long', day: 'numeric', month: 'long', hour: '2-digit', minute: '2-digit' })}.
              {signed.covers ? '' : ' Levels, limits, drops or adults have changed since: it no longer covers this plan.'}
            </>
          ) : (
            'Not signed off yet. The cautions are ticked again at the start of every run.'
          )}
        </p>
        <button type="button" className="btn" disabled={!family} onClick={() => void settled().then(() => setOpen(true))}>
          {signed ? 'Sign off again' : 'Sign off the plan'}
        </button>
      </div>
      {family ? <SignOff open={open} onClose={() => setOpen(false)} family={family} study={study} /> : null}
    </>
  )
}

function SignOff({ open, onClose, family, study }: { open: boolean; onClose: () => void; family: Family; study: Study }) {
  const [ticked, setTicked] = useState<string[]>([])
  const [adult, setAdult] = useState('')
  const [says, setSays] = useState('')
  const [id] = useState(() => uuid())
  const sign = async () => {
    try {
      tookStudy((await ask(api.POST('/api/studies/{study_id}/sign-off', { params: { path: { study_id: study.id } }, body: { id: study.sign_off ? uuid() : id, adult, cautions: ticked } }))) as Study)
      setTicked([])
      onClose()
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <Sheet open={open} onClose={onClose} title="Sign off the plan" wide>
      <p className="mt-0">The adult in charge has read each line for this plan. It does not say that anything is safe; your school’s own risk assessment decides.</p>
      <div className="grid gap-2">
        {family.cautions.map((c) => (
          <Tick key={c} checked={ticked.includes(c)} onChange={(on) => setTicked(on ? [...ticked, c] : ticked.filter((x) => x !== c))}>
            {c}
          </Tick>
        ))}
      </div>
      <div className="mt-4 max-w-md">
        <Line label="Adult in charge, by role" value={adult} placeholder="class teacher" onChange={setAdult} />
      </div>
      {says ? <Says>{says}</Says> : null}
      <button type="button" className="btn btn-act mt-5" disabled={ticked.length < family.cautions.length || !adult.trim()} onClick={() => void sign()}>
        Sign off
      </button>
    </Sheet>
  )
}
