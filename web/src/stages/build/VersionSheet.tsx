import type { Family, Study, Version, VersionDraft } from '../../data/api'
import { Line, Part, Tick } from '../../parts/parts'
import { SavedNote } from '../../parts/SavedNote'
import { OnThePlan } from './OnThePlan'
import { Picture } from './Picture'
import { SideView } from './SideView'
import { ShapePart, UsedPart } from './Takes'
import { useVersion } from './useVersion'

type Part_ = { draft: VersionDraft; change: (part: Partial<VersionDraft>) => void }

/** One version: what changed, how it looks, what it is made of, where it balances, which rules it keeps. */
export function VersionSheet({ study, family, version, onTakeBack }: { study: Study; family: Family | undefined; version: Version; onTakeBack: () => void }) {
  const typing = useVersion(study.id, version)
  const { change } = typing
  const draft = typing.draft.draft
  const part = { draft, change }
  return (
    <article aria-label={`${version.device}, version ${version.number}`} className="grid grid-cols-[minmax(0,1fr)] content-start gap-8">
      <header className="border-t-[8px] border-tape pt-3">
        <h2 className="big m-0 text-[2.6rem] leading-none md:text-[3.4rem]">
          {version.device} <span className="text-quiet">version</span> {version.number}
        </h2>
        <p className="m-0 mt-2 max-w-[46rem] text-[1.15rem]" data-changed>
          {version.says}
        </p>
        <OnThePlan study={study} version={version} />
        {draft.since ? (
          <div className="mt-3 grid max-w-[46rem] gap-4">
            <Line label="Why it was changed" rows={2} value={draft.why ?? ''} onChange={(why) => change({ why })} />
            <Line
              label="Anything else that was changed"
              value={draft.also_changed ?? ''}
              placeholder="glue; who built it"
              hint="Separate several with semicolons."
              onChange={(also_changed) => change({ also_changed })}
            />
            <Tick checked={draft.confirmed ?? false} onChange={(confirmed) => change({ confirmed })}>
              Yes, that is everything that was changed.
            </Tick>
          </div>
        ) : null}
        <SavedNote now={typing} machine={typing.machine} back="Go back to what is stored" />
        {typing.machine.canUndo ? (
          <button type="button" className="btn btn-plain mt-1" onClick={typing.machine.undo}>
            Undo what was typed last
          </button>
        ) : null}
      </header>
      <div className="grid grid-cols-[minmax(0,1fr)] gap-8 lg:grid-cols-2">
        <Picture study={study.id} version={version} sketch={draft.sketch ?? []} onSketch={(sketch) => change({ sketch })} />
        <div className="grid content-start gap-8">
          <Measures {...part} />
          <Rules version={version} money={study.draft.materials?.money ?? ''} />
        </div>
      </div>
      <Properties {...part} />
      <UsedPart {...part} study={study} cost={version.cost} />
      {draft.shape ? <ShapePart draft={draft} change={change} /> : null}
      <Parts {...part} />
      <SideView version={version} />
      {family ? <Checks {...part} family={family} shows={Boolean(study.draft.rules?.payload_shows)} /> : null}
      <div className="hair flex flex-wrap items-center gap-x-6 gap-y-2 pt-3">
        <Tick checked={draft.failed ?? false} onChange={(failed) => change({ failed })}>
          This version failed. It stays on the shelf: what it taught is worth keeping.
        </Tick>
        <span className="grow" />
        <button type="button" className="btn btn-plain" onClick={onTakeBack}>
          Remove this version
        </button>
      </div>
    </article>
  )
}

function Measures({ draft, change }: Part_) {
  return (
    <Part title="Weighed, and noted">
      <div className="grid grid-cols-[9rem_1fr] gap-6">
        <Line label="Mass" big value={draft.mass ?? ''} placeholder="42 g" onChange={(mass) => change({ mass })} />
        <Line label="Note" rows={2} value={draft.note ?? ''} onChange={(note) => change({ note })} />
      </div>
    </Part>
  )
}

function Rules({ version, money }: { version: Version; money: string }) {
  if (!version.rules.length) return null
  return (
    <Part title="The rules">
      <ul className="m-0 list-none p-0">
        {version.rules.map((r) => (
          <li key={r.rule + r.says} className="hair flex gap-4 py-2" data-rule={r.rule}>
            <strong className="w-20 shrink-0">{r.met ? 'kept' : 'not kept'}</strong>
            <span>{r.says}</span>
          </li>
        ))}
      </ul>
      {version.cost ? (
        <p className="m-0 text-quiet">
          Its pieces cost {version.cost} {money}.
        </p>
      ) : null}
    </Part>
  )
}

function Properties({ draft, change }: Part_) {
  const rows = draft.properties ?? []
  return (
    <Part title="Properties">
      <div className="grid gap-x-8 gap-y-3 md:grid-cols-2">
        {rows.map((row, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a property has no identity but its place
          <div key={i} className="grid grid-cols-[1.3fr_1fr] gap-4">
            <Line label="Property" value={row.name ?? ''} onChange={(name) => change({ properties: rows.map((x, j) => (j === i ? { ...x, name } : x)) })} />
            <Line
              label={`is`}
              value={row.value ?? ''}
              placeholder="30 cm"
              onChange={(value) => change({ properties: rows.map((x, j) => (j === i ? { ...x, value } : x)) })}
            />
          </div>
        ))}
      </div>
      <button type="button" className="btn justify-self-start" onClick={() => change({ properties: [...rows, { name: '', value: '' }] })}>
        Add a property
      </button>
    </Part>
  )
}

function Parts({ draft, change }: Part_) {
  const rows = draft.parts ?? []
  const set = (i: number, part: object) => change({ parts: rows.map((x, j) => (j === i ? { ...x, ...part } : x)) })
  return (
    <Part title="Parts, for the balance point">
      {rows.map((row, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a part has no identity but its place
        <div key={i} className="grid grid-cols-[1.4fr_1fr_1fr_auto] gap-4">
          <Line label="Part" value={row.name ?? ''} placeholder="nose" onChange={(name) => set(i, { name })} />
          <Line label="mass" value={row.mass ?? ''} placeholder="12 g" onChange={(mass) => set(i, { mass })} />
          <Line label="from the front" value={row.position ?? ''} placeholder="20 mm" onChange={(position) => set(i, { position })} />
          <button
            type="button"
            className="btn btn-plain mt-5 min-w-[44px] self-start px-1"
            aria-label={`Remove part ${row.name || i + 1}`}
            onClick={() => change({ parts: rows.filter((_, j) => j !== i) })}
          >
            ×
          </button>
        </div>
      ))}
      <button type="button" className="btn justify-self-start" onClick={() => change({ parts: [...rows, { name: '', mass: '', position: '' }] })}>
        Add a part
      </button>
    </Part>
  )
}

function Checks({ draft, change, family, shows }: Part_ & { family: Family; shows: boolean }) {
  const done = draft.checks ?? []
  // where the payload must show it is a rule, ticked once
  const checks = family.build_checks.filter((c) => !(shows && /payload shows/.test(c)))
  const left = checks.filter((c) => !done.includes(c)).length
  return (
    <Part title="Before it flies">
      <div className="grid gap-1">
        {checks.map((c) => (
          <Tick key={c} checked={done.includes(c)} onChange={(on) => change({ checks: on ? [...done, c] : done.filter((x) => x !== c) })}>
            {c}
          </Tick>
        ))}
        {shows ? (
          <Tick checked={draft.payload_shows ?? false} onChange={(payload_shows) => change({ payload_shows })}>
            Part of the payload shows.
          </Tick>
        ) : null}
      </div>
      <p className="m-0 text-quiet">{left ? `${left} still to look at. Most misfires are caught here.` : 'All looked at.'}</p>
    </Part>
  )
}
