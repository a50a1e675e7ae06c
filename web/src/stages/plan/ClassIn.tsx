import { useEffect, useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { Link, useParams } from 'react-router'
import { api, ask, type Joining, type Study } from '../../data/api'
import { client, useHome, useMe, useRota, useStudy } from '../../data/queries'
import { Frame } from '../../parts/Frame'
import { NotOpened } from '../../parts/NotOpened'
import { counted } from '../../parts/counted'
import { Says, Skeleton, Whole } from '../../parts/parts'
import { ToTheLanes } from '../../planning/ToTheLanes'
import { PlanTabs } from './PlanTabs'

const key = (id: string) => ['joining', id]
const at = (id: string) => ({ params: { path: { study_id: id } } })

/** The class comes in: the groups with their lanes, large; the picture and the signs that let them in; who is in, and who is sent out. */
export function ClassIn() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const joining = useQuery<Joining>({ queryKey: key(id), queryFn: () => ask(api.GET('/api/studies/{study_id}/joining', at(id))) })
  if (study.isPending || joining.isPending) return <Skeleton lines={6} />
  const bad = [study, joining].find((q) => q.isLoadingError)
  if (bad || !study.data || !joining.data) return <NotOpened error={bad?.error} again={() => void Promise.all([study.refetch(), joining.refetch()])} />
  return <Opened key={id} study={study.data} joining={joining.data} />
}

function Opened({ study, joining }: { study: Study; joining: Joining }) {
  const me = useMe().data
  const [minutes, setMinutes] = useState(study.draft.rota?.lesson_min ?? 60)
  const home = useHome().data ?? []
  const others = home.filter((s) => s.id !== study.id && s.stage === 'run' && s.class_label === study.class_label)
  const [also, setAlso] = useState<readonly string[]>([])
  const [says, setSays] = useState('')
  const [busy, setBusy] = useState(false)
  const doing = async (work: () => Promise<unknown>) => {
    setBusy(true)
    setSays('')
    try {
      client.setQueryData(key(study.id), await work())
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    } finally {
      setBusy(false)
    }
  }
  const groups = (study.draft.groups ?? []).filter((g) => g.trim())
  const here = /^https?:\/\/(localhost|127\.|\[::1\])/.test(joining.address)
  return (
    <Frame study={study} title={`The class: ${study.title}`}>
      <PlanTabs id={study.id} />
      <div className="mx-auto grid w-full max-w-[90rem] grid-cols-[minmax(0,1fr)] gap-x-14 gap-y-8 px-4 py-6 md:grid-cols-[22rem_minmax(0,1fr)] md:px-8">
        <div className="grid content-start gap-4">
          <h1 className={joining.open ? 'sr-only' : 'm-0 border-t-2 border-ink pt-3 text-[1.7rem]'}>The class comes in</h1>
          {joining.open ? (
            <>
              <svg
                viewBox={`0 0 ${joining.picture_size} ${joining.picture_size}`}
                className="w-full max-w-[20rem] bg-white"
                role="img"
                aria-label={`Scan to open ${joining.address}`}
                shapeRendering="crispEdges"
              >
                <path d={joining.picture} fill="#18211f" />
              </svg>
              <p className="m-0 text-[1.1rem]">
                Scan, or type at <strong>{joining.address.replace(/^https?:\/\//, '')}</strong>
              </p>
              <p className="big m-0 whitespace-nowrap text-[4rem] leading-none" data-signs>
                {joining.code}
              </p>
              <p className="m-0 text-quiet">good until {clock(joining.until ?? '')}, for this class</p>
              {here ? (
                <Says>Only this machine can open that address. Start Bendro with --host 0.0.0.0, and open it here by the machine’s own address.</Says>
              ) : null}
              <div className="flex flex-wrap gap-3">
                <button
                  type="button"
                  className="btn"
                  disabled={busy}
                  onClick={() => void doing(() => ask(api.DELETE('/api/studies/{study_id}/joining', at(study.id))))}
                >
                  Close, and send all out
                </button>
                <Link className="btn btn-plain" to={`/study/${study.id}/desk`}>
                  To the desk
                </Link>
                <Link className="btn btn-plain" to={`/study/${study.id}/run`}>
                  To the lane
                </Link>
              </div>
            </>
          ) : (
            <>
              <p className="m-0 text-[1.1rem]">
                {groups.length > 1
                  ? 'Each group comes in with its own tablet or phone, by six signs on the wall: no account, no name. It keeps the trials of its own turns, writes down its own device, and what it predicts and finds; nothing else.'
                  : 'Tablets and phones come in by six signs on the wall: no account, no name. They keep trials, write down devices, and what the class predicts and finds; nothing else.'}
              </p>
              <Whole label="Open for so many minutes" least={1} most={1440} value={minutes} onChange={setMinutes} />
              {others.length ? (
                <fieldset className="m-0 border-0 p-0">
                  <legend className="font-semibold">Further tests under the same signs</legend>
                  {others.map((s) => (
                    <label key={s.id} className="flex min-h-[44px] items-center gap-3">
                      <input
                        type="checkbox"
                        className="size-6"
                        checked={also.includes(s.id)}
                        onChange={(e) => setAlso((all) => (e.target.checked ? [...all, s.id] : all.filter((x) => x !== s.id)))}
                      />
                      {s.title}
                    </label>
                  ))}
                </fieldset>
              ) : null}
              <button
                type="button"
                className="btn btn-act min-h-[64px] text-[1.25rem]"
                disabled={busy}
                onClick={() => void doing(() => ask(api.POST('/api/studies/{study_id}/joining', { ...at(study.id), body: { minutes, also: [...also] } })))}
              >
                Let the class in
              </button>
            </>
          )}
          {me?.demo ? (
            <button
              type="button"
              className="btn"
              disabled={busy}
              onClick={() =>
                void doing(async () => {
                  await ask(api.POST('/api/studies/{study_id}/players', at(study.id)))
                  return ask(api.GET('/api/studies/{study_id}/joining', at(study.id)))
                })
              }
            >
              Let a made class play
            </button>
          ) : null}
          {says ? <Says>{says}</Says> : null}
          {study.run ? <ToTheLanes study={study} /> : null}
        </div>
        <WhoIsIn
          study={study}
          joining={joining}
          busy={busy}
          onOut={(seat) =>
            void doing(() => ask(api.DELETE('/api/studies/{study_id}/seats/{seat_id}', { params: { path: { study_id: study.id, seat_id: seat } } })))
          }
        />
      </div>
    </Frame>
  )
}

const clock = (time: string) => new Date(time).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })

/** Every group with its lane, and which devices are in. */
function WhoIsIn({ study, joining, busy, onOut }: { study: Study; joining: Joining; busy: boolean; onOut: (seat: string) => void }) {
  const rota = useRota(study.id).data
  const named = (study.draft.groups ?? []).map((g) => g.trim()).filter(Boolean)
  const groups = named.length ? named : [...new Set(study.turns.map((t) => t.group))].filter(Boolean)
  const of = (g: string) => joining.seats.filter((s) => s.role === 'group' && s.label === g)
  const lane = (g: string) => rota?.rota.sittings.find((s) => s.group === g && s.lane)?.lane ?? study.turns.find((t) => t.group === g)?.lane
  const [now, setNow] = useState(() => Date.now())
  useEffect(() => {
    const tick = setInterval(() => setNow(Date.now()), 30_000)
    return () => clearInterval(tick)
  }, [])
  const others = joining.seats.filter((s) => s.role !== 'group' || !groups.includes(s.label))
  const came = groups.filter((g) => of(g).length).length
  const out = (seat: Joining['seats'][number]) => (
    <button key={seat.id} type="button" className="btn btn-plain" disabled={busy} onClick={() => onOut(seat.id)}>
      Send out<span className="sr-only"> {seat.label}</span>
    </button>
  )
  const since = (seat: Joining['seats'][number]) => {
    const min = Math.floor((now - Date.parse(seat.joined_at)) / 60_000)
    return `${seat.device.split(' at ')[0]}, ${min < 1 ? 'just now' : `for ${min} min`}`
  }
  return (
    <section aria-label="Who is in">
      <p className="m-0 border-b-2 border-ink pb-2 text-[1.2rem]" aria-live="polite">
        {groups.length ? (
          <>
            <strong>
              {came} of {groups.length}
            </strong>{' '}
            {groups.length === 1 ? 'group is' : 'groups are'} in
          </>
        ) : joining.seats.length ? (
          counted(joining.seats.length, 'device')
        ) : (
          'No device is in yet'
        )}
        {others.length ? `, and ${counted(others.length, 'other')}` : ''}
      </p>
      <ul className="m-0 list-none p-0">
        {groups.map((g) => (
          <li
            key={g}
            className="grid grid-cols-[2.2rem_minmax(0,1fr)_auto] items-baseline gap-x-4 border-b border-hair py-2"
            data-group={g}
            data-in={of(g).length}
          >
            <span className="big text-[2rem]" aria-hidden="true">
              {of(g).length ? '✓' : '·'}
            </span>
            <span className={`big text-[clamp(2rem,4.5vw,3.6rem)] leading-none ${of(g).length ? '' : 'text-quiet'}`}>{g}</span>
            <span className="text-[1.2rem] text-quiet">{lane(g) ? `lane ${lane(g)}` : ''}</span>
            <span />
            <span className="col-span-2 flex flex-wrap items-center gap-x-4 text-quiet">
              {of(g).length
                ? of(g).map((s) => (
                    <span key={s.id}>
                      {since(s)} {out(s)}
                    </span>
                  ))
                : 'not here yet'}
            </span>
          </li>
        ))}
        {others.map((s) => (
          <li key={s.id} className="flex flex-wrap items-center gap-x-4 border-b border-hair py-2">
            <span className="big text-[1.5rem]">{s.label}</span>
            <span className="text-quiet">{since(s)}</span>
            {out(s)}
          </li>
        ))}
      </ul>
    </section>
  )
}
