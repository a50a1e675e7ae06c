import { useQuery } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { Link } from 'react-router'
import { api, ask, type Me, Refusal } from '../data/api'
import { copyPut } from '../data/keep'
import { client } from '../data/queries'
import { signedOut } from '../data/signedOut'
import { Field, Says } from '../parts/parts'
import { Scan } from '../parts/Scan'
import { Leftover } from '../parts/Waiting'

const SAYS = {
  known: 'Fair tests with a class: plan, run, work out.',
  first: 'Make the first account. It belongs to you and your school.',
  invited: 'Make an account in the school that invited you. Its teachers share their studies.',
} as const

/** The ticks of the tape in the heading. */
const TICKS = Array.from({ length: 45 }, (_, i) => i)

/** At the machine itself: how tablets in the same network get here. */
function ForTablets() {
  const here = useQuery({ queryKey: ['here'], queryFn: () => ask(api.GET('/api/here')) }).data
  const [first, ...more] = here?.addresses ?? []
  if (!here || !first) return null
  return (
    <section aria-label="Tablets" className="hair mt-8 flex w-full max-w-[28rem] flex-wrap items-center gap-5 pt-5 lg:mt-0 lg:w-[15rem] lg:border-0 lg:pt-0">
      <Scan of={here} opens={first} className="w-[9rem] lg:w-[15rem]" />
      <div className="grid gap-1">
        <p className="m-0">Tablets in the same network open</p>
        <p className="m-0 text-[1.15rem] font-semibold break-all">{first}</p>
        {more.length ? <p className="m-0 break-all text-quiet">or {more.join(', ')}</p> : null}
        {here.trust ? (
          <p className="m-0 mt-2">
            <Link to="/trust" className="underline">
              Each tablet trusts this machine once
            </Link>
          </p>
        ) : null}
      </div>
    </section>
  )
}

export function SignIn({ me }: { me: Me }) {
  const [name, setName] = useState('')
  const [password, setPassword] = useState('')
  const [school, setSchool] = useState('')
  const [code, setCode] = useState('')
  const [how, setHow] = useState<'known' | 'first' | 'invited'>(me.first_run && !me.demo_offered ? 'first' : 'known')
  const [refusal, setRefusal] = useState<Refusal | null>(null)
  const [busy, setBusy] = useState(false)
  const fresh = how !== 'known'

  const enter = async (call: () => Promise<Me>) => {
    if (busy) return
    setBusy(true)
    setRefusal(null)
    try {
      const signedIn = await call()
      await copyPut('me', signedIn) // so that the pages open without a network too
      signedOut.set(false)
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
    void enter(() => {
      if (how === 'first') return ask(api.POST('/api/session/first', { body: { ...body, school, code } }))
      return how === 'invited' ? ask(api.POST('/api/session/invited', { body: { ...body, code } })) : ask(api.POST('/api/session', { body }))
    })
  }
  const go = (to: typeof how) => () => {
    setHow(to)
    setRefusal(null)
  }
  const at = (where: string) => (refusal?.where === where ? refusal.message : undefined)
  return (
    <main className="grid min-h-dvh content-center justify-center gap-x-16 gap-y-0 p-6 lg:grid-flow-col lg:items-center">
      <div className="w-full max-w-[28rem]">
        <h1 className="m-0 text-[4.6rem]">Bendro</h1>
        <svg viewBox="0 0 440 58" className="mt-2 w-full" aria-hidden="true">
          <rect width="440" height="44" fill="var(--tape)" />
          <rect y="40" width="440" height="4" fill="var(--tape-edge)" />
          {TICKS.map((i) => (
            <path
              key={i}
              d={`M ${i * 10 + 2} 0 v ${i % 10 === 0 ? 24 : i % 5 === 0 ? 17 : 10}`}
              stroke="var(--tape-ink)"
              strokeWidth={i % 10 === 0 ? 2.4 : 1.2}
            />
          ))}
          <path d="M 312 -1 l -11 0 l 11 19 l 11 -19 z" fill="var(--ink)" />
        </svg>
        <p className="mt-3 text-[1.15rem]">{SAYS[how]}</p>
        <form onSubmit={submit} className="mt-6 grid gap-5">
          {fresh ? (
            <Field
              label="Code"
              says={at('code')}
              hint={how === 'first' ? 'It stands in the window where Bendro was started.' : 'Eight letters and digits from your colleague.'}
            >
              {(p) => (
                <input
                  {...p}
                  className="field"
                  autoComplete="one-time-code"
                  autoCapitalize="characters"
                  spellCheck={false}
                  required
                  value={code}
                  onChange={(e) => setCode(e.target.value)}
                />
              )}
            </Field>
          ) : null}
          <Field label="Sign-in name" says={at('sign_in_name')}>
            {(p) => <input {...p} className="field" autoComplete="username" required value={name} onChange={(e) => setName(e.target.value)} />}
          </Field>
          {how === 'first' ? (
            <Field label="School, or leave empty">{(p) => <input {...p} className="field" value={school} onChange={(e) => setSchool(e.target.value)} />}</Field>
          ) : null}
          <Field label="Password" says={at('password')} hint={fresh ? '10 characters or more' : undefined}>
            {(p) => (
              <input
                {...p}
                className="field"
                type="password"
                autoComplete={fresh ? 'new-password' : 'current-password'}
                required
                value={password}
                onChange={(e) => setPassword(e.target.value)}
              />
            )}
          </Field>
          {refusal && !at('password') && !at('sign_in_name') && !at('code') ? <Says>{refusal.message}</Says> : null}
          <button type="submit" className="btn btn-act" disabled={busy}>
            {fresh ? 'Make the account' : 'Sign in'}
          </button>
        </form>
        <p className="m-0 mt-3 flex flex-wrap gap-x-5">
          {how === 'known' ? null : (
            <button type="button" className="btn btn-plain px-0" onClick={go('known')}>
              I have an account
            </button>
          )}
          {how === 'invited' ? null : (
            <button type="button" className="btn btn-plain px-0" onClick={go('invited')}>
              A colleague invited me
            </button>
          )}
          {me.first_run && how !== 'first' ? (
            <button type="button" className="btn btn-plain px-0" onClick={go('first')}>
              Make the first account
            </button>
          ) : null}
        </p>
        {me.demo_offered ? (
          <div className="hair mt-8 pt-5">
            <p className="m-0 mb-3">Look around with an invented school’s trials:</p>
            <button type="button" className="btn w-full" disabled={busy} onClick={() => void enter(() => ask(api.POST('/api/session/demo')))}>
              Open the demo
            </button>
          </div>
        ) : null}
        <Leftover />
        <p className="m-0 mt-6">
          <Link to="/practice" className="underline">
            Practice for pupils
          </Link>{' '}
          <span className="text-quiet">needs no account and keeps nothing.</span>
        </p>
      </div>
      <ForTablets />
    </main>
  )
}
