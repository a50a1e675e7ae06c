import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { api, ask, type School } from '../data/api'
import { anew } from '../data/queries'
import type { components } from '../data/schema'
import { copiesClear } from '../data/keep'
import { Line, Says } from './parts'

const day = (at: string) => new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'long' })
const moment = (at: string) => new Date(at).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })

/** Colleagues, invitations, and where one is signed in. */
export function SchoolPart() {
  const school = useQuery<School>({ queryKey: ['school'], queryFn: () => ask(api.GET('/api/school')), staleTime: 0 })
  const [code, setCode] = useState<{ code: string; days: number } | null>(null)
  const [sure, setSure] = useState('')
  const [trouble, setTrouble] = useState('')
  const does = async (what: () => Promise<unknown>) => {
    setTrouble('')
    setSure('')
    try {
      await what()
      await anew(['school'])
    } catch (why) {
      setTrouble(why instanceof Error ? why.message : String(why))
    }
  }
  const known = school.data
  if (school.isError) return <Says>{school.error.message}</Says>
  if (!known) return null
  return (
    <>
      <details className="mb-2">
        <summary className="min-h-[48px] cursor-pointer content-center font-semibold">Teachers of {known.name}</summary>
        <p className="mt-0 text-quiet">Teachers of one school share its studies.</p>
        <ul className="m-0 list-none p-0">
          {known.teachers.map((t) => (
            <li key={t.id} className="hair flex min-h-[48px] flex-wrap items-center gap-x-3 py-1">
              <span className="grow">
                {t.shown_name} {t.me ? <span className="text-quiet">(you)</span> : null}
              </span>
              {t.me ? null : sure === t.id ? (
                <span className="flex flex-wrap items-center gap-2">
                  {t.shown_name} will not be able to sign in any more. The studies stay.
                  <button
                    type="button"
                    className="btn"
                    onClick={() => void does(() => ask(api.DELETE('/api/school/teachers/{account_id}', { params: { path: { account_id: t.id } } })))}
                  >
                    Remove {t.shown_name}
                  </button>
                  <button type="button" className="btn btn-plain" onClick={() => setSure('')}>
                    Leave it
                  </button>
                </span>
              ) : (
                <button type="button" className="btn btn-plain" onClick={() => setSure(t.id)} aria-label={`Remove ${t.shown_name} …`}>
                  Remove …
                </button>
              )}
            </li>
          ))}
          {known.invitations.map((i) => (
            <li key={i.id} className="hair flex min-h-[48px] flex-wrap items-center gap-x-3 py-1">
              <span className="grow text-quiet">
                Invitation of {i.made_by}, open until {day(i.until)}
              </span>
              <button
                type="button"
                className="btn btn-plain"
                onClick={() => void does(() => ask(api.DELETE('/api/school/invitations/{invitation_id}', { params: { path: { invitation_id: i.id } } })))}
              >
                Withdraw
              </button>
            </li>
          ))}
        </ul>
        <div className="hair flex flex-wrap items-center gap-3 pt-3" role="status">
          <button type="button" className="btn" onClick={() => void does(async () => setCode(await ask(api.POST('/api/school/invitations'))))}>
            Invite a colleague
          </button>
          {code ? (
            <span>
              <strong className="big text-[1.5rem]">{code.code}</strong>
              <br />
              For one colleague, within {code.days} days: “A colleague invited me” on the sign-in page. It is shown this once.
            </span>
          ) : null}
        </div>
      </details>
      <details className="mb-2">
        <summary className="min-h-[48px] cursor-pointer content-center font-semibold">Where you are signed in ({known.sign_ins.length})</summary>
        <ul className="m-0 list-none p-0">
          {known.sign_ins.map((s) => (
            <li key={s.id} className="hair flex min-h-[48px] flex-wrap items-center gap-x-3 py-1">
              <span className="grow">
                {s.device || 'a device'}, since {moment(s.since)}
                {s.here ? <span className="text-quiet"> (here)</span> : null}
              </span>
              {s.here ? null : (
                <button
                  type="button"
                  className="btn btn-plain"
                  onClick={() => void does(() => ask(api.DELETE('/api/school/sign-ins/{sign_in_id}', { params: { path: { sign_in_id: s.id } } })))}
                >
                  End it
                </button>
              )}
            </li>
          ))}
        </ul>
      </details>
      <details className="mb-2">
        <summary className="min-h-[48px] cursor-pointer content-center font-semibold">Erase a class</summary>
        <EraseClass />
      </details>
      {trouble ? <Says>{trouble}</Says> : null}
    </>
  )
}

type Class = components['schemas']['ClassOut']
type Erased = components['schemas']['ErasedOut']

/** Everything of a class goes for good, with the proof of it. */
function EraseClass() {
  const classes = useQuery<Class[]>({ queryKey: ['classes'], queryFn: () => ask(api.GET('/api/school/classes')), staleTime: 0 })
  const [chosen, setChosen] = useState<Class>()
  const [typed, setTyped] = useState('')
  const [done, setDone] = useState<Erased>()
  const [trouble, setTrouble] = useState('')
  const named = (classes.data ?? []).filter((c) => c.label)
  const erase = async (c: Class) => {
    setTrouble('')
    try {
      setDone((await ask(api.POST('/api/school/classes/erase', { body: { class_label: c.label, year: c.year, typed } }))) as Erased)
      setChosen(undefined)
      setTyped('')
      await Promise.all([anew(['classes']), anew(['home'])])
      await copiesClear() // what this browser kept of it for when there is no network
    } catch (why) {
      setTrouble(why instanceof Error ? why.message : String(why))
    }
  }
  return (
    <div className="grid gap-3">
      {done ? (
        <div role="status" data-erased>
          <p className="m-0">
            <strong>{done.label} is erased</strong>: {done.titles.join(', ')}.
          </p>
          <table className="num my-2 w-full">
            <thead>
              <tr>
                <th className="text-left">rows of</th>
                <th className="text-right">before</th>
                <th className="text-right">now</th>
              </tr>
            </thead>
            <tbody>
              {Object.entries(done.before)
                .filter(([, n]) => n)
                .map(([table, n]) => (
                  <tr key={table} className="border-t border-hair">
                    <td>{table.replaceAll('_', ' ')}</td>
                    <td className="text-right">{n}</td>
                    <td className="text-right">{done.after[table]}</td>
                  </tr>
                ))}
            </tbody>
          </table>
          <p className="m-0">
            {done.copies.length
              ? `These still hold copies: ${done.copies.join('; ')}.`
              : 'No backup made since is known here; one that you keep elsewhere still holds it.'}
          </p>
        </div>
      ) : null}
      {named.length ? null : <p className="m-0 text-quiet">No study names a class. A single study is deleted on Home.</p>}
      {named.map((c) => (
        <div key={`${c.label} ${c.year}`} className="hair py-2">
          <p className="m-0 flex flex-wrap items-center gap-x-3">
            <span className="grow">
              <strong>{c.label}</strong> {c.year} <span className="text-quiet">{c.titles.join(', ')}</span>
            </span>
            <button type="button" className="btn btn-plain" onClick={() => setChosen(c)} aria-label={`Erase ${c.label} …`}>
              Erase …
            </button>
          </p>
          {chosen === c ? (
            <form
              className="grid gap-2"
              onSubmit={(e) => {
                e.preventDefault()
                void erase(c)
              }}
            >
              <p className="m-0">
                {c.rows} rows of {c.titles.length === 1 ? 'this study' : `these ${c.titles.length} studies`} go for good, with trials, versions and pictures.
                Take a copy along first, if you want one.
              </p>
              <Line label={`Type ${c.label} to erase it`} value={typed} onChange={setTyped} />
              <button type="submit" className="btn" disabled={typed.trim().toLowerCase() !== c.label.toLowerCase()}>
                Erase {c.label} for good
              </button>
            </form>
          ) : null}
        </div>
      ))}
      {trouble ? <Says>{trouble}</Says> : null}
    </div>
  )
}
