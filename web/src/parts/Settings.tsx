import { lazy, Suspense, useState } from 'react'
import { api, ask, Refusal } from '../data/api'
import { copiesClear } from '../data/keep'
import { client, useMe } from '../data/queries'
import { forgetPlans } from '../data/usePlan'
import { useQueue } from '../data/useQueue'
import { Field, Says } from './parts'
import { applyTheme, savedTheme, THEMES, type Theme } from './theme'

const SchoolPart = lazy(async () => ({ default: (await import('./School')).SchoolPart }))

/** The light, who is signed in, the school, the password, and the way out. */
export function Settings() {
  const me = useMe()
  const [theme, setTheme] = useState<Theme>(savedTheme)
  const [says, setSays] = useState('')
  const { waiting } = useQueue()
  const leave = async () => {
    try {
      await ask(api.DELETE('/api/session'))
    } catch (why) {
      setSays(why instanceof Error ? why.message : 'Signing out did not work.')
      return
    }
    await copiesClear()
    forgetPlans()
    client.clear()
    location.assign(me.data?.seat ? '/join' : '/')
  }
  return (
    <>
      <fieldset className="m-0 border-0 p-0">
        <legend className="font-semibold">Light</legend>
        <div className="mt-2 flex gap-2">
          {THEMES.map((t) => (
            <label key={t.id} className={`btn grow cursor-pointer has-focus-visible:outline-3 ${theme === t.id ? 'bg-tape text-tape-ink' : ''}`}>
              <input
                type="radio"
                name="theme"
                className="sr-only"
                checked={theme === t.id}
                onChange={() => {
                  setTheme(t.id)
                  applyTheme(t.id)
                }}
              />
              {t.label}
            </label>
          ))}
        </div>
        <p className="mt-2 text-quiet">Day for a room, Sun for outdoors, Hall for a dim room with a projector.</p>
      </fieldset>
      <p className="hair mt-4 pt-4">
        {me.data?.seat ? 'Here as ' : 'Signed in as '}
        <strong>{me.data?.shown_name}</strong>
        {me.data?.seat ? '.' : `, ${me.data?.workspace}.`}
      </p>
      {waiting.length ? <p>{waiting.length} unsent entries stay in this browser until you sign in again.</p> : null}
      {me.data?.demo || me.data?.seat ? null : (
        <Suspense fallback={null}>
          <SchoolPart />
        </Suspense>
      )}
      {me.data?.demo || me.data?.seat ? null : <Password />}
      {me.data?.seat ? null : (
        <ul className="hair m-0 mt-2 mb-4 list-none p-0 pt-2">
          <li>
            <a href="/help/guide" className="flex min-h-[44px] items-center underline">
              A lesson with Bendro, step by step
            </a>
          </li>
          <li>
            <a href="/help/technician" className="flex min-h-[44px] items-center underline">
              For whoever looks after this Bendro
            </a>
          </li>
          <li>
            <a href="/licences.txt" className="flex min-h-[44px] items-center underline">
              Licences of what is in it
            </a>
          </li>
        </ul>
      )}
      <button type="button" className="btn" onClick={() => void leave()}>
        {me.data?.seat ? 'Leave the lesson' : 'Sign out'}
      </button>
      {says ? <Says>{says}</Says> : null}
    </>
  )
}

/** A new password for whoever knows the present one; other devices are signed out. */
function Password() {
  const [now, setNow] = useState('')
  const [wanted, setWanted] = useState('')
  const [refusal, setRefusal] = useState<Refusal | null>(null)
  const [done, setDone] = useState(false)
  const change = async () => {
    setRefusal(null)
    setDone(false)
    try {
      await ask(api.PUT('/api/session/password', { body: { now, wanted } }))
      setNow('')
      setWanted('')
      setDone(true)
    } catch (why) {
      setRefusal(why instanceof Refusal ? why : new Refusal(String(why), 'unknown', 0))
    }
  }
  return (
    <details className="mb-4">
      <summary className="min-h-[48px] cursor-pointer content-center font-semibold">Change the password</summary>
      <form
        className="grid gap-4 pt-2"
        onSubmit={(e) => {
          e.preventDefault()
          void change()
        }}
      >
        <Field label="Present password" says={refusal?.where === 'now' ? refusal.message : undefined}>
          {(p) => (
            <input {...p} className="field" type="password" autoComplete="current-password" required value={now} onChange={(e) => setNow(e.target.value)} />
          )}
        </Field>
        <Field label="New password" hint="10 characters or more. Other devices are signed out." says={refusal?.where === 'now' ? undefined : refusal?.message}>
          {(p) => (
            <input {...p} className="field" type="password" autoComplete="new-password" required value={wanted} onChange={(e) => setWanted(e.target.value)} />
          )}
        </Field>
        <button type="submit" className="btn justify-self-start">
          Change it
        </button>
        <p className="m-0" role="status">
          {done ? 'The password is changed.' : ''}
        </p>
      </form>
    </details>
  )
}
