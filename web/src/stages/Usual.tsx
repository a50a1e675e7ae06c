import { NotOpened } from '../parts/NotOpened'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { v4 as uuid } from 'uuid'
import { api, ask, type Family } from '../data/api'
import { anew, client, useFamilies, useHome } from '../data/queries'
import { Frame } from '../parts/Frame'
import { Line, Says, Skeleton } from '../parts/parts'

const plain = (text: string) => text.toLowerCase()

/** The words by which a usual test is found: what it asks, its family, what it changes and reads. */
const about = (family: Family, t: Family['tests'][number]) => plain([t.says, family.name, family.covers, t.variable, ...t.measures, ...t.worked].join(' '))

/** Usual tests to start from, found by what they are about. One press makes a whole plan, which is then looked at and changed. */
export function Usual() {
  const families = useFamilies()
  const home = useHome()
  const [find, setFind] = useState('')
  const [says, setSays] = useState('')
  const [busy, setBusy] = useState('')
  const [last] = useState(() => home.data?.find((s) => s.class_label)?.class_label ?? '')
  const [label, setLabel] = useState(last)
  const go = useNavigate()
  if (families.isPending) return <Skeleton lines={6} />
  if (families.isLoadingError) return <NotOpened error={families.error} again={() => void families.refetch()} />
  const start = async (family: string, test: string) => {
    if (busy) return
    setBusy(`${family} ${test}`)
    try {
      const study = await ask(api.POST('/api/studies/usual', { body: { id: uuid(), family, test, class_label: label, groups: [] } }))
      client.setQueryData(['study', study.id], study)
      void anew(['home'])
      go(`/study/${study.id}/plan`)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
      setBusy('')
    }
  }
  const asked = plain(find).split(/\s+/).filter(Boolean)
  const shown = families.data
    .map((f) => ({ family: f, tests: f.tests.filter((t) => asked.every((w) => about(f, t).includes(w))) }))
    .filter((f) => f.tests.length)
  return (
    <Frame title="Usual tests">
      <div className="mx-auto w-full max-w-[84rem] px-4 py-6 md:px-8">
        <h1 className="m-0 text-[2.6rem] md:text-[3.4rem]">What shall we find out?</h1>
        <p className="m-0 mt-1 max-w-[46rem] text-[1.1rem]">
          Each is a whole plan: press one, look it over, change what differs, run it. Heights and energies are left for you to set.
        </p>
        <div className="mt-5 grid max-w-[46rem] gap-6 md:grid-cols-[2fr_1fr]">
          <Line label="Find by what it is about" big value={find} placeholder="parachute, how far, power …" onChange={setFind} />
          <Line label="For which class" value={label} placeholder="9 Teal" onChange={setLabel} />
        </div>
        {says ? <Says>{says}</Says> : null}
        <div className="mt-7 grid gap-x-12 gap-y-7 md:grid-cols-2">
          {shown.map(({ family, tests }) => (
            <section key={family.id} aria-label={family.name}>
              <h2 className="m-0 border-b-[6px] border-tape pb-1 text-[1.5rem]">{family.name}</h2>
              <ul className="m-0 list-none p-0">
                {tests.map((t) => (
                  <li key={t.id} className="hair">
                    <button
                      type="button"
                      className="grid min-h-[56px] w-full cursor-pointer border-0 bg-transparent px-1 py-2 text-left text-ink hover:bg-tape/25"
                      disabled={busy !== ''}
                      data-test={`${family.id} ${t.id}`}
                      onClick={() => void start(family.id, t.id)}
                    >
                      <span className="text-[1.15rem] font-semibold">{t.says}</span>
                      <span className="text-quiet">
                        {t.variable} {levelsOf(family, t.variable, t.levels)}
                        {t.second ? ` × ${t.second.variable} ${levelsOf(family, t.second.variable, t.second.levels)}` : ''} ·{' '}
                        {[...t.measures, ...t.worked].join(', ')} · {t.repeats}&nbsp;each
                      </span>
                    </button>
                  </li>
                ))}
              </ul>
            </section>
          ))}
        </div>
        {shown.length ? null : (
          <p className="text-[1.15rem]">
            No usual test is about that. Begin with a new study instead: its question, one thing to change, one thing to measure.
          </p>
        )}
      </div>
    </Frame>
  )
}

/** The levels of a usual test, with their unit once, behind the last. */
function levelsOf(family: Family, variable: string, levels: readonly string[]): string {
  const unit = family.variables.find((v) => v.name === variable)?.unit ?? ''
  const said = levels.join(', ')
  return !said || !unit || levels.some((l) => !/^[\d.,]+$/.test(l)) ? said : unit === '°' ? `${said}°` : `${said}\u00a0${unit}`
}
