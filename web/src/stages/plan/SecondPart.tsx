import { useState } from 'react'
import type { Draft, Family } from '../../data/api'
import { Line, Pick } from '../../parts/parts'
import { same, variableFor } from '../../planning/choose'
import type { PartOf } from '../../planning/problems'
import { UNIT_OPTIONS } from '../../planning/words'

type Second = NonNullable<Draft['second']>
const OTHER = '…'

/** A second variable, when it is planned: every combination of both is run, so that it can be told whether one depends on the other. */
export function SecondPart({ draft, family, change, at, asked }: PartOf & { family: Family | undefined }) {
  const second = draft.second
  if (draft.study_kind !== 'fair_test') return null
  if (!second)
    return draft.variable.name ? (
      <button
        type="button"
        className="btn btn-plain justify-self-start px-0"
        onClick={() => change({ second: { name: '', kind: 'name', quantity: 'number', unit: '', levels: [], level_ids: [] } })}
      >
        Add a second variable
      </button>
    ) : null
  return <Fields second={second} draft={draft} family={family} change={change} at={at} asked={asked} />
}

function Fields({ second, draft, family, change, at, asked }: PartOf & { second: Second; family: Family | undefined }) {
  const usual = (family?.variables ?? []).filter((v) => !v.limited && !same(v.name, draft.variable.name))
  const known = usual.some((v) => v.name === second.name)
  const [own, setOwn] = useState(Boolean(second.name) && !known)
  const set = (part: Partial<Second>) => change({ second: { ...second, level_ids: [], ...part } })
  const combinations = draft.variable.levels.length * second.levels.length
  return (
    <div className="hair grid gap-5 pt-4" data-second>
      <div className="grid gap-6 md:grid-cols-2">
        <Pick
          label="Second variable"
          says={own ? undefined : at('second.name')}
          hint={asked('second.name')}
          value={own ? OTHER : known ? second.name : ''}
          options={[['', 'Choose …'], ...usual.map((v) => [v.name, v.name] as const), [OTHER, 'something else …']]}
          onChange={(name) => {
            setOwn(name === OTHER)
            if (name === OTHER) set({ name: '' })
            else if (name) change({ second: variableFor(name, family) })
          }}
        />
        {own ? (
          <div className="grid gap-6 md:grid-cols-2">
            <Line label="The second one’s name" says={at('second.name')} value={second.name} onChange={(name) => set({ name })} />
            <Pick
              label="Its levels are"
              says={at('second.unit')}
              value={second.kind === 'name' ? 'name' : `${second.quantity}:${second.unit}`}
              options={[['name', 'names'], ['number:', 'plain numbers'], ...UNIT_OPTIONS]}
              onChange={(kind) => {
                const [quantity = 'number', unit = ''] = kind.split(':')
                set(kind === 'name' ? { kind: 'name', quantity: 'number', unit: '' } : { kind: 'number', quantity, unit })
              }}
            />
          </div>
        ) : null}
      </div>
      <Line
        label={`Levels of the second variable, separated by commas${second.kind === 'number' && second.unit && second.unit !== 'count' ? `, in ${second.unit}` : ''}`}
        says={at('second.levels') ?? second.levels.map((_, i) => at(`second.levels.${i}`)).find(Boolean)}
        hint={asked('second.levels') ?? (combinations ? `${combinations} combinations, each run ${draft.repeats} times.` : undefined)}
        value={second.levels.join(', ')}
        placeholder={second.kind === 'name' ? 'felt, card' : '20, 40'}
        onChange={(text) => set({ levels: text.split(',').map((t) => t.trimStart()) })}
      />
      <button type="button" className="btn btn-plain justify-self-start px-0" onClick={() => change({ second: null })}>
        Remove the second variable
      </button>
    </div>
  )
}
