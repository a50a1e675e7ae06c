import { type FormEvent, useState } from 'react'
import { api, ask, type Me, Refusal } from '../data/api'
import { copyPut } from '../data/keep'
import { client } from '../data/queries'
import { Field, Says } from '../parts/parts'

export function SignIn({ me }: { me: Me }) {
  const [name, setName] = useState('')
  const [password, setPassword] = useState('')
  const [school, setSchool] = useState('')
  const [refusal, setRefusal] = useState<Refusal | null>(null)
  const [busy, setBusy] = useState(false)
  const first = me.first_run

  const enter = async (how: () => Promise<Me>) => {
    if (busy) return
    setBusy(true)
    setRefusal(null)
    try {
      const signedIn = await how()
      await copyPut('me', signedIn) // so that the pages open without a network too
      client.setQueryData(['me'], signedIn)
    } catch (why) {
      setRefusal(why instanceof Refusal ? why : new Refusal(String(why), 'unknown', 0))
    } finally {
      setBusy(false)
    }
  }
  const submit = (e: FormEvent) => {
    e.preventDefault()
    const body = { sign_in_name: name, password }
    void enter(() => (first ? ask(api.POST('/api/session/first', { body: { ...body, school } })) : ask(api.POST('/api/session', { body }))))
  }
  const at = (where: string) => (refusal?.where === where ? refusal.message : undefined)
  return (
    <main className="grid min-h-dvh content-center justify-items-center gap-0 p-6">
      <div className="w-full max-w-[28rem]">
        <h1 className="m-0 text-[4.6rem]">Bendro</h1>
        <svg viewBox="0 0 440 58" className="mt-2 w-full" aria-hidden="true">
          <rect width="440" height="44" fill="var(--tape)" />
          <rect y="40" width="440" height="4" fill="var(--tape-edge)" />
          {Array.from({ length: 45 }, (_, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: ticks have no identity
            <path key={i} d={`M ${i * 10 + 2} 0 v ${i % 10 === 0 ? 24 : i % 5 === 0 ? 17 : 10}`} stroke="var(--tape-ink)" strokeWidth={i % 10 === 0 ? 2.4 : 1.2} />
          ))}
          <path d="M 312 -1 l -11 0 l 11 19 l 11 -19 z" fill="var(--ink)" />
        </svg>
        <p className="mt-3 text-[1.15rem]">{first ? 'Make the first account. It belongs to you and your school.' : 'Fair tests with a class: plan, run, work out.'}</p>
        <form onSubmit={submit} className="mt-6 grid gap-5">
          <Field label="Sign-in name" says={at('sign_in_name')}>
            {(p) => <input {...p} className="field" autoComplete="username" required value={name} onChange={(e) => setName(e.target.value)} />}
          </Field>
          {first ? <Field label="School, or leave empty">{(p) => <input {...p} className="field" value={school} onChange={(e) => setSchool(e.target.value)} />}</Field> : null}
          <Field label="Password" says={at('password')} hint={first ? '10 characters or more' : undefined}>
            {(p) => <input {...p} className="field" type="password" autoComplete={first ? 'new-password' : 'current-password'} required value={password} onChange={(e) => setPassword(e.target.value)} />}
          </Field>
          {refusal && !at('password') && !at('sign_in_name') ? <Says>{refusal.message}</Says> : null}
          <button type="submit" className="btn btn-act" disabled={busy}>
            {first ? 'Make the account' : 'Sign in'}
          </button>
        </form>
        {me.demo_offered ? (
          <div className="hair mt-8 pt-5">
            <p className="m-0 mb-3">Look around with an invented school’s trials:</p>
            <button type="button" className="btn w-full" disabled={busy} onClick={() => void enter(() => ask(api.POST('/api/session/demo')))}>
              Open the demo
            </button>
          </div>
        ) : null}
      </div>
    </main>
  )
}
