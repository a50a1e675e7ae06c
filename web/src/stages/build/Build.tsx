import { useState } from 'react'
import { useParams, useSearchParams } from 'react-router'
import { v4 as uuid } from 'uuid'
import { type Family, Refusal, type Study, type Version, type VersionDraft } from '../../data/api'
import { useFamilies, useStudy, useVersions } from '../../data/queries'
import { patchStudy } from '../../data/usePlan'
import { useQueue } from '../../data/useQueue'
import { queue } from '../../machines/saveQueue'
import { Frame } from '../../parts/Frame'
import { Line, Pick, Says, Sheet, Skeleton, Tick, Trouble } from '../../parts/parts'
import { Compare } from './Compare'
import { provisional, putVersion } from './useVersion'
import { VersionSheet } from './VersionSheet'

export function Build() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const families = useFamilies()
  const versions = useVersions(id)
  const { waiting } = useQueue()
  if (study.isPending || families.isPending || versions.isPending) return <Skeleton lines={6} />
  const bad = [study, families, versions].find((q) => q.isLoadingError)
  if (bad || !study.data || !families.data || !versions.data)
    return <Trouble error={bad?.error} again={() => void Promise.all([study.refetch(), versions.refetch()])} />
  const began = waiting.filter((w) => w.kind === 'version' && w.studyId === id && !versions.data.some((v) => v.id === w.id))
  const shelf = [...versions.data]
  for (const w of began) shelf.push(provisional(w, shelf))
  return (
    <Shelf
      key={id}
      study={study.data}
      family={families.data.find((f) => f.id === study.data.draft.family)}
      versions={shelf.filter((v) => !v.withdrawn)}
      gone={versions.data.filter((v) => v.withdrawn)}
    />
  )
}

/** The shelf: every device with its versions, even the failures, and the version that is open. */
function Shelf({ study, family, versions, gone }: { study: Study; family: Family | undefined; versions: Version[]; gone: Version[] }) {
  const [search, setSearch] = useSearchParams()
  const [making, setMaking] = useState(false)
  const [comparing, setComparing] = useState(false)
  const [says, setSays] = useState('')
  const open = versions.find((v) => v.id === search.get('version')) ?? versions.at(-1)
  const show = (id: string) => setSearch({ version: id }, { replace: true })
  const devices = [...new Set(versions.map((v) => v.device))]
  const takeBack = async (v: Version) => {
    try {
      await putVersion(study.id, v.id, { device: v.device, draft: v.draft, withdrawn: true }, v.revision)
      setSearch({}, { replace: true })
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  const putBack = async (v: Version) => {
    try {
      await putVersion(study.id, v.id, { device: v.device, draft: v.draft, withdrawn: false }, v.revision)
      show(v.id)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <Frame study={study} title={`Build: ${study.title}`}>
      <div className="mx-auto grid w-full max-w-[90rem] grid-cols-[minmax(0,1fr)] gap-x-12 gap-y-6 px-4 py-6 md:grid-cols-[17rem_minmax(0,1fr)] md:px-8">
        <nav aria-label="Devices and versions" className="no-print content-start">
          <h1 className="m-0 border-t-2 border-ink pt-3 text-[1.7rem]">On the shelf</h1>
          {devices.map((device) => (
            <div key={device} className="mt-3">
              <p className="m-0 font-semibold">{device}</p>
              <ul className="m-0 mt-1 flex list-none flex-wrap gap-2 p-0">
                {versions
                  .filter((v) => v.device === device)
                  .map((v) => (
                    <li key={v.id}>
                      <button
                        type="button"
                        aria-current={v.id === open?.id ? 'true' : undefined}
                        aria-label={`${device}, version ${v.number}${v.draft.failed ? ', failed' : ''}`}
                        className={`btn big min-w-[52px] px-2 text-[1.3rem] ${v.id === open?.id ? 'bg-tape text-tape-ink' : ''} ${v.draft.failed ? 'line-through decoration-2' : ''}`}
                        onClick={() => show(v.id)}
                      >
                        {v.number}
                      </button>
                    </li>
                  ))}
              </ul>
            </div>
          ))}
          {versions.length ? null : <p>No device yet. Write the first one down before it flies: what it is made of, what it weighs, how it looks.</p>}
          <div className="mt-5 grid gap-3">
            <button type="button" className="btn btn-act" onClick={() => setMaking(true)}>
              {versions.length ? 'New device or version' : 'Write the first device down'}
            </button>
            {versions.length > 1 ? (
              <button type="button" className="btn" onClick={() => setComparing(true)}>
                Compare two versions
              </button>
            ) : null}
            {gone.map((v) => (
              <button key={v.id} type="button" className="btn btn-plain" onClick={() => void putBack(v)}>
                Put {v.device} {v.number} back
              </button>
            ))}
            {says ? <Says>{says}</Says> : null}
          </div>
        </nav>
        {open ? <VersionSheet key={open.id} study={study} family={family} version={open} onTakeBack={() => void takeBack(open)} /> : <div />}
      </div>
      <NewVersion open={making} onClose={() => setMaking(false)} study={study} family={family} versions={versions} onMade={show} />
      <Sheet open={comparing} onClose={() => setComparing(false)} title="Two versions side by side" wide>
        {comparing ? <Compare study={study} versions={versions} first={open} /> : null}
      </Sheet>
    </Frame>
  )
}

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

function NewVersion({
  open,
  onClose,
  study,
  family,
  versions,
  onMade,
}: {
  open: boolean
  onClose: () => void
  study: Study
  family: Family | undefined
  versions: Version[]
  onMade: (id: string) => void
}) {
  const called = study.draft.study_kind === 'contest' ? study.draft.variable.levels : (study.draft.groups ?? [])
  const devices = [...new Set([...versions.map((v) => v.device), ...called])]
  const [device, setDevice] = useState('')
  const [own, setOwn] = useState('')
  const [since, setSince] = useState('')
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
    <Sheet open={open} onClose={onClose} title="A device, or a new version of one">
      <form
        className="grid gap-5"
        onSubmit={(e) => {
          e.preventDefault()
          void make()
        }}
      >
        {devices.length ? (
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
            <Line label="What is changed, and why?" rows={2} value={why} placeholder="One more fold, because it broke at the rim" onChange={setWhy} />
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
