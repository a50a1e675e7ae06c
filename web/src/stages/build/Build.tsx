import { NotOpened } from '../../parts/NotOpened'
import { useState } from 'react'
import { useParams, useSearchParams } from 'react-router'
import type { Family, Study, Version } from '../../data/api'
import { useConclusion, useFamilies, useStudy, useVersions } from '../../data/queries'
import { useQueue } from '../../data/useQueue'
import { Frame } from '../../parts/Frame'
import { PaperHead } from '../../parts/PaperHead'
import { Says, Sheet, Skeleton } from '../../parts/parts'
import { Compare } from './Compare'
import { NewVersion } from './NewVersion'
import { Story } from './Story'
import { provisional, putVersion } from './useVersion'
import { VersionSheet } from './VersionSheet'

export function Build() {
  const { id = '' } = useParams()
  const study = useStudy(id)
  const families = useFamilies()
  const versions = useVersions(id)
  const { waiting } = useQueue()
  if (study.isPending || families.isPending || versions.isPending) return <Skeleton lines={6} />
  const bad = [study, families, versions].find((q) => q.isLoadingError)
  if (bad || !study.data || !families.data || !versions.data)
    return <NotOpened error={bad?.error} again={() => void Promise.all([study.refetch(), versions.refetch()])} />
  const began = waiting.filter((w) => w.kind === 'version' && w.studyId === id && !versions.data.some((v) => v.id === w.id))
  const shelf = [...versions.data]
  for (const w of began) shelf.push(provisional(w, shelf))
  return (
    <Page
      key={id}
      study={study.data}
      family={families.data.find((f) => f.id === study.data.draft.family)}
      versions={shelf.filter((v) => !v.withdrawn)}
      gone={versions.data.filter((v) => v.withdrawn)}
    />
  )
}

type Making = { from: Version | undefined }

/** The bench with the version that is open, and below it the shelf: every device with its versions, even the failures. */
function Page({ study, family, versions, gone }: { study: Study; family: Family | undefined; versions: Version[]; gone: Version[] }) {
  const [search, setSearch] = useSearchParams()
  const [making, setMaking] = useState<Making>()
  const [comparing, setComparing] = useState(false)
  const [says, setSays] = useState('')
  const came = useConclusion(study.id, study.kept > 0 && versions.length > 0).data?.versions ?? []
  const open = versions.find((v) => v.id === search.get('version')) ?? versions.at(-1)
  const show = (id: string) => setSearch({ version: id }, { replace: true })
  const put = async (v: Version, withdrawn: boolean) => {
    try {
      await putVersion(study.id, v.id, { device: v.device, draft: v.draft, withdrawn }, v.revision)
      setSays('')
      setSearch(withdrawn ? {} : { version: v.id }, { replace: true })
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
    }
  }
  const shelf = (
    <section aria-label="On the shelf" className="border-t-2 border-ink pt-2">
      <h2 className="sr-only">On the shelf</h2>
      <div className="grid gap-x-6 gap-y-3 md:grid-cols-[minmax(0,1fr)_13rem]">
        <Story study={study} versions={versions} came={came} open={open} onShow={show} />
        <div className="no-print grid content-start gap-2">
          <button type="button" className="btn" onClick={() => setMaking({ from: open })}>
            Next version: change one thing
          </button>
          {versions.length > 1 ? (
            <button type="button" className="btn btn-plain" onClick={() => setComparing(true)}>
              Lay two side by side
            </button>
          ) : null}
          <button type="button" className="btn btn-plain" onClick={() => setMaking({ from: undefined })}>
            Another device
          </button>
          {gone.map((v) => (
            <button key={v.id} type="button" className="btn btn-plain" onClick={() => void put(v, false)}>
              Restore {v.device} {v.number}
            </button>
          ))}
          <button type="button" className="btn btn-plain" onClick={() => window.print()}>
            Print
          </button>
          {says ? <Says>{says}</Says> : null}
        </div>
      </div>
    </section>
  )
  return (
    <Frame study={study} title={`Build: ${study.title}`}>
      <div className="mx-auto w-full max-w-[90rem] px-4 py-5 md:px-8 print:p-0">
        <PaperHead study={study} what="the versions" />
        {open ? (
          <VersionSheet key={open.id} study={study} family={family} version={open} shelf={shelf} onTakeBack={() => void put(open, true)} />
        ) : (
          <div className="max-w-[40rem]">
            <h1 className="m-0 text-[2.6rem]">On the shelf</h1>
            <p className="text-[1.15rem]">No device yet. Write the first one down before it is tried: what it is made of, what it weighs, how it looks.</p>
            <button type="button" className="btn btn-act" onClick={() => setMaking({ from: undefined })}>
              Write the first device down
            </button>
            {gone.map((v) => (
              <button key={v.id} type="button" className="btn btn-plain mt-3" onClick={() => void put(v, false)}>
                Restore {v.device} {v.number}
              </button>
            ))}
            {says ? <Says>{says}</Says> : null}
          </div>
        )}
      </div>
      {making ? (
        <NewVersion open onClose={() => setMaking(undefined)} study={study} family={family} versions={versions} from={making.from} onMade={show} />
      ) : null}
      <Sheet open={comparing} onClose={() => setComparing(false)} title="Two versions side by side" wide>
        {comparing ? <Compare study={study} versions={versions} first={open} /> : null}
      </Sheet>
    </Frame>
  )
}
