import { useState } from 'react'
import { api, ask, type Me, Refusal } from '../data/api'
import { copyPut } from '../data/keep'
import { client } from '../data/queries'
import { signedOut } from '../data/signedOut'
import { queue } from '../machines/saveQueue'
import { Field, Says } from './parts'

/** The sign-in over a page whose session has ended: the page stays as it is under it, with what is half typed. was: who was signed in. */
export function SignInOver({ was }: { was: Me }) {
  const [name, setName] = useState(was.demo ? '' : was.shown_name)
  const [password, setPassword] = useState('')
  const [refusal, setRefusal] = useState<Refusal | null>(null)
  const [busy, setBusy] = useState(false)
  // on a phone the form would cover the lane: one line of it stands there until it is wanted
  const [folded, setFolded] = useState(() => window.matchMedia('(max-width: 767px)').matches)
  const enter = async (call: () => Promise<Me>) => {
    if (busy) return
    setBusy(true)
    setRefusal(null)
    try {
      const me = await call()
      await copyPut('me', me)
      if (me.school !== was.school) return location.assign('/') // nothing of one school stays on another's page
      signedOut.set(false)
      client.setQueryData(['me'], me)
      void client.invalidateQueries()
      void queue.flush()
    } catch (why) {
      setRefusal(why instanceof Refusal ? why : new Refusal(String(why), 'unknown', 0))
    } finally {
      setBusy(false)
    }
  }
  const place = 'fixed inset-x-0 bottom-0 z-30 max-h-dvh overflow-auto border-t-[7px] border-tape bg-floor px-4 py-2 shadow-[0_-6px_24px_rgb(0_0_0/0.35)]'
  if (folded)
    return (
      <aside aria-labelledby="signed-out" className={`${place} flex items-center gap-3`} data-signed-out>
        <p id="signed-out" className="m-0 grow font-semibold" role="status">
          This sign-in has ended. What you typed stays here.
        </p>
        <button type="button" className="btn btn-act shrink-0" onClick={() => setFolded(false)}>
          Sign in
        </button>
      </aside>
    )
  return (
    <aside aria-labelledby="signed-out" className={place} data-signed-out>
      <form
        className="mx-auto grid w-full max-w-[52rem] items-end gap-x-4 gap-y-2 md:grid-cols-[1fr_1fr_auto_auto]"
        onSubmit={(e) => {
          e.preventDefault()
          void enter(() => ask(api.POST('/api/session', { body: { sign_in_name: name, password } })))
        }}
      >
        <p id="signed-out" className="m-0 font-semibold md:col-span-4" role="status">
          This sign-in has ended. What you typed stays here. Sign in again, or let a colleague of your school sign in.
        </p>
        {was.demo ? (
          <button type="button" className="btn btn-act" disabled={busy} onClick={() => void enter(() => ask(api.POST('/api/session/demo')))}>
            Open the demo again
          </button>
        ) : (
          <>
            <Field label="Sign-in name">
              {(p) => <input {...p} className="field" autoComplete="username" required value={name} onChange={(e) => setName(e.target.value)} />}
            </Field>
            <Field label="Password">
              {(p) => (
                <input
                  {...p}
                  className="field"
                  type="password"
                  autoComplete="current-password"
                  required
                  value={password}
                  onChange={(e) => setPassword(e.target.value)}
                />
              )}
            </Field>
            <button type="submit" className="btn btn-act" disabled={busy}>
              Sign in
            </button>
          </>
        )}
        <button type="button" className="btn btn-plain" onClick={() => setFolded(true)}>
          Later
        </button>
        {refusal ? (
          <div className="md:col-span-4">
            <Says>{refusal.message}</Says>
          </div>
        ) : null}
      </form>
    </aside>
  )
}
