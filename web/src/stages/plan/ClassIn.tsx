import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { api, ask, type Joining, type Study } from '../../data/api'
import { client, useHome, useJoining, useMe, useStudy } from '../../data/queries'
import { Frame } from '../../parts/Frame'
import { NotOpened } from '../../parts/NotOpened'
import { Says, Skeleton, Whole } from '../../parts/parts'
import { Signs, WhoIsIn } from '../../planning/WhoIsIn'
import { ToTheLanes } from '../../planning/ToTheLanes'
import { PlanTabs } from './PlanTabs'

const key = (id: string) => ['joining', id]
const at = (id: string) => ({ params: { path: { study_id: id } } })

/** The class comes in: the groups with their lanes, large; the picture and the signs that let them in; who is in, and who is sent out. */
export function ClassIn() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const joining = useJoining(id)
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
              <Signs joining={joining} />
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
