import { useState } from 'react'
import type { Ahead, Family, Problem, Study } from '../../data/api'
import { Line, Pick } from '../../parts/parts'
import { Levels } from './Levels'
import type { PartOf } from '../../planning/problems'
import { limitOn, withLimit } from './SafetyPart'
import { UNIT_OPTIONS } from '../../planning/words'

const OTHER = '…'

/** The one thing to change, with its levels and the family's usual spread. */
export function VariablePart({
  draft,
  family,
  change,
  at,
  asked,
  problems,
  ahead,
  study,
}: PartOf & { study: Study; family: Family | undefined; problems: Problem[]; ahead: Ahead | undefined }) {
  const v = draft.variable
  const known = family?.variables.find((x) => x.name === v.name && x.unit === v.unit && x.kind === v.kind)
  const [picked, setOwn] = useState(false)
  const own = picked || (Boolean(v.name) && !known)
  const pick = (name: string) => {
    if (name === OTHER) {
      setOwn(true)
      change({ variable: { ...v, name: '' } })
      return
    }
    setOwn(false)
    const found = family?.variables.find((x) => x.name === name)
    if (!found) return
    const untouched = v.levels.every((l) => l.trim() === '')
    // what needs a limit has no levels suggested before there is one
    const typical = found.limited ? [] : found.typical.map(String)
    change({
      variable: {
        name,
        kind: found.kind,
        quantity: found.quantity ?? 'number',
        unit: found.unit,
        level_ids: [],
        levels: untouched || v.name !== name ? typical : v.levels,
      },
    })
  }
  const place = ahead?.limits.find((p) => p.on === 'variable')
  const usual = ahead?.suggested_levels ?? []
  const offer = known && usual.length > 1 && usual.join() !== v.levels.join()
  return (
    <>
      <div className="grid gap-6 md:grid-cols-2">
        <Pick
          label="Variable"
          says={own ? undefined : at('variable.name')}
          hint={known?.hint || asked('variable.name')}
          value={own ? OTHER : (known?.name ?? '')}
          onChange={pick}
          options={[
            ['', 'Choose …'],
            ...(family?.variables ?? []).map((x) => [x.name, x.unit && x.unit !== 'count' ? `${x.name} (${x.unit})` : x.name] as const),
            [OTHER, 'something else …'],
          ]}
        />
        {own ? (
          <div className="grid gap-6 md:grid-cols-2">
            <Line label="Its name" says={at('variable.name')} value={v.name ?? ''} onChange={(name) => change({ variable: { ...v, name } })} />
            <Pick
              label="Its levels are"
              says={at('variable.unit')}
              value={v.kind === 'name' ? 'name' : `${v.quantity}:${v.unit}`}
              onChange={(kind) => {
                const [quantity, unit] = kind.split(':')
                change({
                  variable:
                    kind === 'name'
                      ? { ...v, kind: 'name', quantity: 'number', unit: '' }
                      : { ...v, kind: 'number', quantity: quantity ?? 'number', unit: unit ?? '' },
                })
              }}
              options={[['name', 'names'], ['number:', 'plain numbers'], ...UNIT_OPTIONS]}
            />
          </div>
        ) : null}
      </div>
      {place?.needed ? (
        <div className="max-w-72">
          <Line
            label={`Your limit on ${place.label}: never above`}
            big
            value={limitOn(draft, place)}
            placeholder={`10 ${place.unit === 'count' ? '' : place.unit}`}
            hint={limitOn(draft, place) ? undefined : 'Set it first; levels are suggested below it, and nothing is run above it.'}
            onChange={(value) => change(withLimit(draft, place, value))}
          />
        </div>
      ) : null}
      <Levels
        draft={draft}
        change={change}
        problems={problems}
        refused={at('variable.levels')}
        asked={asked('variable.levels')}
        stored={study.levels}
        kept={study.kept + study.void > 0}
      />
      {draft.study_kind === 'contest' && draft.groups?.length && draft.groups.join() !== v.levels.join() ? (
        <button
          type="button"
          className="btn btn-plain justify-self-start"
          onClick={() =>
            change({ variable: { name: v.name || 'device', kind: 'name', quantity: 'number', unit: '', levels: [...(draft.groups ?? [])], level_ids: [] } })
          }
        >
          One device for each group: {draft.groups.join(', ')}
        </button>
      ) : null}
      {offer ? (
        <button type="button" className="btn btn-plain justify-self-start" onClick={() => change({ variable: { ...v, levels: [...usual], level_ids: [] } })}>
          Use the usual spread: {usual.join(', ')} {v.unit === 'count' ? '' : v.unit}
        </button>
      ) : null}
    </>
  )
}
