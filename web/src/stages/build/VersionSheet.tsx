import { type ReactNode, useState } from 'react'
import type { Family, Study, Version, VersionDraft } from '../../data/api'
import { useQueue } from '../../data/useQueue'
import { Fold } from '../../parts/Fold'
import { Line, Sheet, Tick } from '../../parts/parts'
import { SavedNote } from '../../parts/SavedNote'
import { Bench, type Face, faces } from './Bench'
import { OnThePlan } from './OnThePlan'
import { Picture } from './Picture'
import { SideView } from './SideView'
import { ShapePart, UsedPart } from './Takes'
import { useVersion } from './useVersion'

type Part_ = { draft: VersionDraft; change: (part: Partial<VersionDraft>) => void }
const SHOWN: Record<Face, string> = { photo: 'Photo', sketch: 'Sketch', drawing: 'Drawing', nothing: '' }

/** One version on the bench: how it looks with its properties on it, what changed and why, what it weighs, costs and keeps to. Below the
 *  shelf what is looked up less often. */
export function VersionSheet({
  study,
  family,
  version,
  shelf,
  onTakeBack,
}: {
  study: Study
  family: Family | undefined
  version: Version
  shelf: ReactNode
  onTakeBack: () => void
}) {
  const typing = useVersion(study.id, version)
  const { change } = typing
  const draft = typing.draft.draft
  const part = { draft, change }
  const [chosen, setChosen] = useState<Face>()
  const [drawing, setDrawing] = useState(false)
  const waits = useQueue().waiting.some((w) => w.kind === 'photo' && w.id === version.id)
  const shown = faces(version, draft)
  const face = chosen && shown.includes(chosen) ? chosen : (shown[0] ?? 'nothing')
  return (
    <article aria-label={`${version.device}, version ${version.number}`} className="grid grid-cols-[minmax(0,1fr)] gap-6">
      <div className="grid grid-cols-[minmax(0,1fr)] gap-x-10 gap-y-5 lg:grid-cols-[minmax(0,1fr)_23rem]">
        <div>
          <Bench study={study.id} version={version} draft={draft} change={change} face={face} />
          <div className="no-print mt-2 flex flex-wrap items-center gap-x-2">
            {shown.length > 1
              ? shown.map((f) => (
                  <button
                    key={f}
                    type="button"
                    aria-pressed={f === face}
                    className={`btn btn-plain ${f === face ? 'font-bold decoration-tape decoration-[5px]' : 'text-quiet'}`}
                    onClick={() => setChosen(f)}
                  >
                    {SHOWN[f]}
                  </button>
                ))
              : null}
            <button type="button" className="btn btn-plain" onClick={() => setDrawing(true)}>
              Draw or photograph it
            </button>
            <span className="grow" />
            {typing.machine.canUndo ? (
              <button type="button" className="btn btn-plain" onClick={typing.machine.undo}>
                Undo what was typed last
              </button>
            ) : null}
            <SavedNote now={typing} machine={typing.machine} back="Go back to what is stored" />
          </div>
          {waits ? (
            <p className="m-0 font-semibold" role="status" data-photo-waits>
              The photo waits in this browser and is sent when the server can be reached.
            </p>
          ) : null}
        </div>
        <header className="content-start">
          <h1 className="big m-0 text-[2.6rem] leading-none md:text-[3rem]">
            {version.device} <span className="sr-only">version</span> <span className="text-quiet">{version.number}</span>
          </h1>
          <p className="m-0 mt-2 text-[1.1rem] leading-snug" data-changed>
            {version.says}
          </p>
          {draft.since ? <Why {...part} /> : null}
          <Facts {...part} study={study} version={version} family={family} />
          <Rules version={version} />
          <div className="no-print mt-4 grid gap-2">
            <OnThePlan study={study} version={version} />
          </div>
        </header>
      </div>
      {shelf}
      <div className="grid grid-cols-[minmax(0,1fr)] gap-6">
        {family ? <Checks {...part} asked={version.as_cut} family={family} shows={Boolean(study.draft.rules?.payload_shows)} /> : null}
        <UsedPart {...part} study={study} cost={version.cost} />
        {draft.shape ? <ShapePart draft={draft} change={change} /> : null}
        <Parts {...part} version={version} />
        <div className="grid items-end gap-x-8 gap-y-2 border-t-2 border-ink pt-3 md:grid-cols-[1fr_auto]">
          <Line label="Note" rows={2} value={draft.note ?? ''} onChange={(note) => change({ note })} />
          <button type="button" className="btn btn-plain no-print" onClick={onTakeBack}>
            Remove this version
          </button>
          <div className={draft.failed ? '' : 'no-print'}>
            <Tick checked={draft.failed ?? false} onChange={(failed) => change({ failed })}>
              This version failed. It stays on the shelf: what it taught is worth keeping.
            </Tick>
          </div>
        </div>
      </div>
      <Sheet open={drawing} onClose={() => setDrawing(false)} title={`How ${version.device} ${version.number} looks`} wide>
        {drawing ? <Picture study={study.id} version={version} sketch={draft.sketch ?? []} onSketch={(sketch) => change({ sketch })} /> : null}
      </Sheet>
    </article>
  )
}

/** Why it was changed, and whether that is all; once somebody has said so, the question takes one line. */
function Why({ draft, change }: Part_) {
  return (
    <div className="mt-3 grid gap-2 border-t-2 border-ink pt-2">
      <Line label="Why it was changed" rows={draft.confirmed ? 1 : 2} value={draft.why ?? ''} onChange={(why) => change({ why })} />
      {draft.confirmed && !draft.also_changed ? null : (
        <Line
          label="Anything else that was changed"
          value={draft.also_changed ?? ''}
          placeholder="glue; who built it"
          hint="Separate several with semicolons."
          onChange={(also_changed) => change({ also_changed })}
        />
      )}
      <Tick checked={draft.confirmed ?? false} onChange={(confirmed) => change({ confirmed })}>
        Yes, that is everything that was changed.
      </Tick>
    </div>
  )
}

/** Mass, cost and checks in one line. */
function Facts({ draft, change, study, version, family }: Part_ & { study: Study; version: Version; family: Family | undefined }) {
  const money = study.draft.materials?.money ?? ''
  const checks = family?.build_checks ?? []
  return (
    <div className="mt-3 grid grid-cols-3 items-start gap-x-5 border-t-2 border-hair pt-2" data-facts>
      <Line label="Mass" big value={draft.mass ?? ''} placeholder="42 g" onChange={(mass) => change({ mass })} />
      {version.cost ? (
        <p className="m-0">
          <span className="block text-[0.92rem] font-semibold text-quiet">Cost</span>
          <span className="big block pt-2 text-[1.35rem]">
            {version.cost} {money}
          </span>
        </p>
      ) : null}
      {checks.length ? (
        <p className="m-0">
          <span className="block text-[0.92rem] font-semibold text-quiet">Looked at</span>
          <span className="big block pt-2 text-[1.35rem]">
            {checks.filter((c) => draft.checks?.includes(c)).length} of {checks.length}
          </span>
        </p>
      ) : null}
    </div>
  )
}

function Rules({ version }: { version: Version }) {
  if (!version.rules.length) return null
  return (
    <ul className="m-0 mt-2 list-none p-0 text-[0.98rem]" aria-label="The rules">
      {version.rules.map((r) => (
        <li key={r.rule + r.says} className="hair py-1" data-rule={r.rule}>
          <strong>{r.met ? 'kept' : 'not kept'}:</strong> {r.says}
        </li>
      ))}
    </ul>
  )
}

/** Parts with their masses and places, and what follows from them. What stands in it is told while it is folded. */
function Parts({ draft, change, version }: Part_ & { version: Version }) {
  const rows = draft.parts ?? []
  const set = (i: number, part: object) => change({ parts: rows.map((x, j) => (j === i ? { ...x, ...part } : x)) })
  return (
    <Fold n="" title="Where it balances" says={version.side?.says[0] ?? 'Write its parts with their masses to see.'} missing={false}>
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
      <SideView version={version} />
    </Fold>
  )
}

const start = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)

function Checks({ draft, change, family, shows, asked }: Part_ & { family: Family; shows: boolean; asked: Version['as_cut'] }) {
  const done = draft.checks ?? []
  // where the payload must show it is a rule, ticked once
  const checks = family.build_checks.filter((c) => !(shows && /payload shows/.test(c)))
  const left = checks.filter((c) => !done.includes(c)).length
  const isAsked = (m: { name?: string }) => (m.name ?? '').toLowerCase() === asked?.what.toLowerCase()
  const measured = draft.measured?.find(isAsked)?.value ?? ''
  const rest = (draft.measured ?? []).filter((m) => !isAsked(m))
  return (
    <Fold
      n=""
      title="Before it is tried"
      says={[
        left ? `${left} of ${checks.length} still to look at. Most misfires are caught here.` : 'All looked at.',
        asked ? (measured ? `${start(asked.what)} measured: ${measured}.` : `${start(asked.what)} not measured yet.`) : '',
      ]
        .filter(Boolean)
        .join(' ')}
      missing={false}
    >
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
      {asked ? (
        <div className="max-w-[26rem]" data-as-cut>
          <Line
            label={`${start(asked.what)}, ${asked.called} as drawn: measured`}
            hint={`What the ruler says once it is cut, in ${asked.unit}. It is kept with the version, so that ${asked.level} is what it is called.`}
            value={measured}
            onChange={(value) => change({ measured: [...rest, ...(value ? [{ name: asked.what, value }] : [])] })}
          />
        </div>
      ) : null}
      <p className="m-0 text-quiet">{left ? `${left} still to look at. Most misfires are caught here.` : 'All looked at.'}</p>
    </Fold>
  )
}
