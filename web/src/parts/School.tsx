import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { api, ask, type School } from '../data/api'
import { anew } from '../data/queries'
import { Says } from './parts'

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
      {trouble ? <Says>{trouble}</Says> : null}
    </>
  )
}
