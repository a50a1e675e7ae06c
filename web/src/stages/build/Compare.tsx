import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api, ask, type Study, type Version } from '../../data/api'
import { faces, Look } from './Bench'
import { Pick, Says, Skeleton } from '../../parts/parts'

const named = (v: Version) => `${v.device} ${v.number}`

/** Any two versions side by side: what differs, and what can be concluded from that. */
export function Compare({ study, versions, first }: { study: Study; versions: Version[]; first: Version | undefined }) {
  const b0 = first ?? versions.at(-1)
  const a0 = versions.find((v) => v.device === b0?.device && v.number === b0?.draft.since) ?? versions.find((v) => v.id !== b0?.id)
  const [a, setA] = useState(a0?.id ?? '')
  const [b, setB] = useState(b0?.id ?? '')
  const found = useQuery({
    queryKey: ['compare', study.id, a, b],
    queryFn: () => ask(api.GET('/api/studies/{study_id}/versions/compare', { params: { path: { study_id: study.id }, query: { first: a, second: b } } })),
  })
  const options = versions.map((v) => [v.id, named(v)] as const)
  const [one, two] = [versions.find((v) => v.id === a), versions.find((v) => v.id === b)]
  const rows: [string, (v: Version) => string][] = [
    ['mass', (v) => v.draft.mass || '–'],
    ['pieces cost', (v) => (v.cost ? String(v.cost) : '–')],
    ['balances at', (v) => (v.side?.balance == null ? '–' : `${v.side.balance.toFixed(0)} mm`)],
    ['margin', (v) => (v.side?.margin == null ? '–' : v.side.margin.toFixed(1))],
    ['why', (v) => v.draft.why || '–'],
  ]
  return (
    <div className="grid gap-5">
      <div className="grid grid-cols-2 gap-6">
        <Pick label="First" value={a} options={options} onChange={setA} />
        <Pick label="Second" value={b} options={options} onChange={setB} />
      </div>
      {found.isPending ? <Skeleton part lines={2} /> : found.isError ? <Says>{found.error.message}</Says> : null}
      {found.data && one && two ? (
        <>
          <p className="m-0 text-[1.2rem] font-semibold" data-compared>
            {found.data.says}
          </p>
          <div className="grid grid-cols-2 gap-6">
            {[one, two].map((v) => (
              <div key={v.id} className="h-[180px]">
                <Look study={study.id} version={v} draft={v.draft} face={faces(v, v.draft)[0] ?? 'nothing'} small />
              </div>
            ))}
          </div>
          <table className="w-full border-collapse text-left">
            <thead>
              <tr className="text-quiet">
                <th className="py-1 font-semibold">What</th>
                <th className="py-1 font-semibold">{named(one)}</th>
                <th className="py-1 font-semibold">{named(two)}</th>
              </tr>
            </thead>
            <tbody>
              {found.data.changed.map((c) => (
                <tr key={c.name} className="hair">
                  <td className="py-2 pr-4 font-bold">{c.name}</td>
                  <td className="py-2 pr-4">{c.was ?? '–'}</td>
                  <td className="py-2">{c.now ?? '–'}</td>
                </tr>
              ))}
              {rows.map(([name, of]) =>
                of(one) === '–' && of(two) === '–' ? null : (
                  <tr key={name} className="hair">
                    <td className="py-2 pr-4">{name}</td>
                    <td className="py-2 pr-4">{of(one)}</td>
                    <td className="py-2">{of(two)}</td>
                  </tr>
                ),
              )}
            </tbody>
          </table>
        </>
      ) : null}
    </div>
  )
}
