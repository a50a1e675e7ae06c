import { type FormEvent, useCallback, useEffect, useRef, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import { api, ask, type Me } from '../data/api'
import { copyPut } from '../data/keep'
import { client } from '../data/queries'
import { signedOut } from '../data/signedOut'
import { Says } from '../parts/parts'

type Offered = { study_id: string; title: string; groups: string[]; taken: string[] }
type Role = 'group' | 'timer' | 'wall' | 'colleague'

/** The class comes in: six signs from the wall, then the group's label. No account, no name. */
export function Join() {
  const [asked] = useSearchParams()
  const [code, setCode] = useState(asked.get('code') ?? '')
  const [lessons, setLessons] = useState<Offered[]>()
  const [offered, setOffered] = useState<Offered>()
  const [says, setSays] = useState('')
  const [busy, setBusy] = useState(false)
  const go = useNavigate()
  const look = useCallback(async (typed: string) => {
    setBusy(true)
    setSays('')
    try {
      const found = (await ask(api.GET('/api/join', { params: { query: { code: typed } } }))) as Offered[]
      setLessons(found)
      if (found.length === 1) setOffered(found[0])
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    } finally {
      setBusy(false)
    }
  }, [])
  const scanned = useRef(false)
  useEffect(() => {
    document.title = 'Come in – Bendro'
    if (scanned.current || !asked.get('code')) return
    scanned.current = true
    void look(asked.get('code') ?? '')
  }, [asked, look])
  const take = async (role: Role, label: string) => {
    if (busy || !offered) return
    setBusy(true)
    setSays('')
    try {
      await ask(api.POST('/api/join', { body: { code, role, label, study_id: offered.study_id } }))
      const me = (await ask(api.GET('/api/session'))) as Me
      await copyPut('me', me) // so that the pages open without a network too
      signedOut.set(false)
      client.setQueryData(['me'], me)
      go(`/study/${offered.study_id}/${role === 'wall' ? 'wall' : role === 'timer' ? 'time' : 'run'}`)
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
      setBusy(false)
    }
  }
  if (lessons && lessons.length > 1 && !offered)
    return (
      <main className="mx-auto grid w-full max-w-[34rem] gap-5 p-6">
        <h1 className="m-0 text-[3rem] leading-none">Which test?</h1>
        <ul className="m-0 grid list-none gap-0 border-t-2 border-ink p-0">
          {lessons.map((l) => (
            <li key={l.study_id} className="border-b border-hair">
              <button
                type="button"
                className="big min-h-[72px] w-full cursor-pointer border-0 bg-transparent px-1 py-2 text-left text-[2rem] text-ink hover:bg-tape/25"
                onClick={() => setOffered(l)}
              >
                {l.title}
              </button>
            </li>
          ))}
        </ul>
      </main>
    )
  if (!offered)
    return (
      <main className="mx-auto grid min-h-dvh w-full max-w-[30rem] content-center gap-5 p-6">
        <h1 className="m-0 border-b-[10px] border-tape pb-2 text-[3.4rem] leading-none">Come in</h1>
        <form
          className="grid gap-4"
          onSubmit={(e: FormEvent) => {
            e.preventDefault()
            void look(code)
          }}
        >
          <label htmlFor="signs" className="text-[1.15rem]">
            The six signs on the wall
          </label>
          <input
            id="signs"
            className="field big min-h-[72px] text-[3rem] uppercase tracking-[0.12em]"
            value={code}
            autoComplete="off"
            autoCapitalize="characters"
            spellCheck={false}
            maxLength={12}
            aria-describedby="signs-says"
            onChange={(e) => setCode(e.target.value)}
          />
          <div id="signs-says" role="alert">
            {says ? <Says>{says}</Says> : null}
          </div>
          <button type="submit" className="btn btn-act min-h-[72px] text-[1.4rem]" disabled={busy || !code.trim()}>
            Go on
          </button>
        </form>
        <p className="m-0 text-quiet">No account and no name. The teacher opens the lesson, and the signs are on the wall.</p>
      </main>
    )
  return (
    <main className="mx-auto grid w-full max-w-[34rem] gap-5 p-6">
      <div>
        <p className="m-0 text-quiet">{offered.title}</p>
        <h1 className="m-0 text-[3rem] leading-none">Which group are you?</h1>
      </div>
      <div role="alert">{says ? <Says>{says}</Says> : null}</div>
      <ul className="m-0 grid list-none gap-0 border-t-2 border-ink p-0">
        {(offered.groups.length ? offered.groups : ['']).map((g) => (
          <li key={g} className="border-b border-hair">
            <button
              type="button"
              className="flex min-h-[72px] w-full cursor-pointer items-baseline gap-4 border-0 bg-transparent px-1 py-2 text-left text-ink hover:bg-tape/25"
              disabled={busy}
              onClick={() => void take('group', g)}
            >
              <span className="big grow text-[2.2rem]">{g || 'The class'}</span>
              {offered.taken.includes(g) ? <span className="text-quiet">a device is in: join it</span> : null}
            </button>
          </li>
        ))}
      </ul>
      <div className="flex flex-wrap gap-3">
        <button type="button" className="btn" disabled={busy} onClick={() => void take('timer', '')}>
          A timer: we only time
        </button>
        <button type="button" className="btn" disabled={busy} onClick={() => void take('wall', '')}>
          This is the wall
        </button>
        <button type="button" className="btn" disabled={busy} onClick={() => void take('colleague', '')}>
          A colleague who runs lanes
        </button>
      </div>
    </main>
  )
}
