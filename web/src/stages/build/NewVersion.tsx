import { useState } from 'react'
import { v4 as uuid } from 'uuid'
import { type Family, Refusal, type Study, type Version, type VersionDraft } from '../../data/api'
import { patchStudy } from '../../data/usePlan'
import { queue } from '../../machines/saveQueue'
import { Line, Pick, Says, Sheet, Tick } from '../../parts/parts'
import { putVersion } from './useVersion'

/** The share of the mass of the version before that a lighter one may have (common practice). */
const LIGHTER = 0.75

/** A new version starts as a copy of the one it was made from, so that only what changed is typed. */
function draftFrom(before: Version | undefined, family: Family | undefined, study: Study): VersionDraft {
  if (before)
    return {
      ...before.draft,
      since: before.number,
      why: '',
      also_changed: '',
      confirmed: false,
      checks: [],
      measured: [],
      mass: '',
      failed: false,
      note: '',
      payload_shows: null,
    }
  const names = [study.draft.variable.name, ...(family?.variables.slice(0, 5).map((v) => v.name) ?? [])].filter(
    (n): n is string => Boolean(n) && n !== 'device' && n !== 'version',
  )
  const properties = [...new Set(names)].map((name) => ({ name, value: '' }))
  const rocket =
    family?.id === 'rocket'
      ? { nose: 'cone' as const, nose_length: '', body_diameter: '', body_length: '', fins: '', root: '', tip: '', span: '', sweep: '', fin_position: '' }
      : null
  return {
    since: null,
    why: '',
    also_changed: '',
    confirmed: false,
    properties,
    measured: [],
    parts: [],
    shape: rocket,
    mass: '',
    used: [],
    checks: [],
    payload_shows: null,
    failed: false,
    note: '',
    sketch: [],
  }
}

/** A new device, or the next version of one. from: the version that it is made from, as far as that is known. */
export function NewVersion({
  open,
  onClose,
  study,
  family,
  versions,
  from: made,
  onMade,
}: {
  open: boolean
  onClose: () => void
  study: Study
  family: Family | undefined
  versions: Version[]
  from: Version | undefined
  onMade: (id: string) => void
}) {
  const called = study.draft.study_kind === 'contest' ? study.draft.variable.levels : (study.draft.groups ?? [])
  const devices = [...new Set([...versions.map((v) => v.device), ...called])]
  const [device, setDevice] = useState(made?.device ?? '')
  const [own, setOwn] = useState('')
  const [since, setSince] = useState(made ? String(made.number) : '')
  const [why, setWhy] = useState('')
  const [says, setSays] = useState('')
  const label = device === '…' || devices.length === 0 ? own : device
  const earlier = versions.filter((v) => v.device === label)
  const from = earlier.find((v) => String(v.number) === (since || String(earlier.at(-1)?.number ?? '')))
  const [lighter, setLighter] = useState(false)
  const own_ = /^\s*([\d.,]+)\s*g?\s*$/.exec(from?.draft.mass ?? '')
  const most = own_?.[1] ? Number(own_[1].replace(',', '.')) * LIGHTER : null
  const make = async () => {
    const id = uuid()
    try {
      // the rule stands in the plan, so that it is checked once the version is weighed
      if (lighter && most && !study.draft.rules?.share_of_last)
        await patchStudy(study, { draft: { ...study.draft, rules: { ...study.draft.rules, share_of_last: String(LIGHTER) } } })
      await putVersion(study.id, id, { device: label, draft: { ...draftFrom(from, family, study), why }, withdrawn: false }, 0)
      setWhy('')
      setSince('')
      onClose()
      onMade(id)
    } catch (bad) {
      if (!(bad instanceof Refusal && bad.away)) return setSays(bad instanceof Error ? bad.message : String(bad))
      // without a network it is begun here, and sent before anything that is typed for it
      await queue.add({
        kind: 'version',
        studyId: study.id,
        id,
        body: { device: label, draft: { ...draftFrom(from, family, study), why }, withdrawn: false, revision: 0 },
      })
      setWhy('')
      setSince('')
      onClose()
      onMade(id)
    }
  }
  return (
    <Sheet open={open} onClose={onClose} title={made ? `The next version of ${made.device}` : 'A device, or a new version of one'}>
      <form
        className="grid gap-5"
        onSubmit={(e) => {
          e.preventDefault()
          void make()
        }}
      >
        {devices.length && !made ? (
          <Pick
            label="Which group’s device"
            value={device}
            options={[['', 'Choose …'], ...devices.map((d) => [d, d] as const), ['…', 'another label …']]}
            onChange={setDevice}
          />
        ) : null}
        {device === '…' || devices.length === 0 ? <Line label="Its label" value={own} placeholder="Avocet" onChange={setOwn} /> : null}
        {earlier.length ? (
          <>
            <Pick
              label="Made from version"
              value={since || String(earlier.at(-1)?.number)}
              options={[...earlier].reverse().map((v) => [String(v.number), `${v.number}${v.draft.failed ? ' (failed)' : ''}`] as const)}
              onChange={setSince}
            />
            <Line label="What one thing is changed, and why?" rows={2} value={why} placeholder="One more fold, because it broke at the rim" onChange={setWhy} />
          </>
        ) : null}
        {earlier.length && most ? (
          <Tick checked={lighter} onChange={setLighter}>
            At three quarters of its mass: at most {Number(most.toPrecision(3))} g.
          </Tick>
        ) : null}
        {says ? <Says>{says}</Says> : null}
        <button type="submit" className="btn btn-act" disabled={!label.trim()}>
          Write it down
        </button>
      </form>
    </Sheet>
  )
}
