import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { v4 as uuid } from 'uuid'
import { api, ask } from '../../../data/api'
import { anew, client } from '../../../data/queries'
import { putPicture } from '../../../machines/saveQueue'
import { Told } from '../../../parts/parts'

const url = (study: string, picture: string) => `/api/studies/${study}/sheet-pictures/${picture}`

/** The pictures of the school's own build sheet. */
export function useOwnPictures(study: string) {
  const known = useQuery<string[]>({
    queryKey: ['sheet-pictures', study],
    queryFn: () => ask(api.GET('/api/studies/{study_id}/sheet-pictures', { params: { path: { study_id: study } } })),
  })
  const ids = known.data ?? []
  return { study, ids, sources: ids.map((id) => url(study, id)) }
}

/** Added from the camera or from files, and taken away again. */
export function OwnPictures({ pictures }: { pictures: ReturnType<typeof useOwnPictures> }) {
  const { study, ids } = pictures
  const [says, setSays] = useState('')
  const [busy, setBusy] = useState(false)
  const doing = async (work: () => Promise<unknown>) => {
    setBusy(true)
    setSays('')
    try {
      client.setQueryData(['sheet-pictures', study], await work())
    } catch (why) {
      setSays(why instanceof Error ? why.message : String(why))
      void anew(['sheet-pictures', study])
    } finally {
      setBusy(false)
    }
  }
  const at = (picture: string) => ({ params: { path: { study_id: study, picture_id: picture } } })
  return (
    <div className="grid gap-3">
      <ul className="m-0 flex list-none flex-wrap gap-4 p-0">
        {ids.map((id, i) => (
          <li key={id} className="grid gap-1">
            <img src={url(study, id)} alt={`${i + 1} of the school’s own sheet`} className="h-28 border border-ink object-contain" />
            <button
              type="button"
              className="btn btn-plain"
              disabled={busy}
              onClick={() => void doing(() => ask(api.DELETE('/api/studies/{study_id}/sheet-pictures/{picture_id}', at(id))))}
            >
              Remove picture {i + 1}
            </button>
          </li>
        ))}
      </ul>
      <label className="btn w-fit cursor-pointer">
        Add a picture
        <input
          type="file"
          accept="image/*"
          className="sr-only"
          disabled={busy}
          onChange={(e) => {
            const file = e.target.files?.[0]
            e.target.value = ''
            if (file) void doing(() => putPicture<string[]>(url(study, uuid()), file))
          }}
        />
      </label>
      <Told says={says} />
    </div>
  )
}
