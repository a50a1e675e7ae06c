import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'
import { Link, useParams } from 'react-router'
import { api, ask } from '../data/api'
import { Skeleton, Trouble } from '../parts/parts'

type Named = 'guide' | 'technician'

/** A page of help: the text that lies in docs/. */
export function Help() {
  const { page = 'guide' } = useParams()
  const named: Named = page === 'technician' ? 'technician' : 'guide'
  const found = useQuery({
    queryKey: ['help', named],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => ask(api.GET('/api/help/{page}', { params: { path: { page: named } } })),
  })
  const title = found.data?.title ?? 'Help'
  useEffect(() => {
    document.title = `${title} – Bendro`
  }, [title])
  return (
    <main className="mx-auto w-full max-w-[52rem] px-4 py-6 md:px-8">
      <div className="flex flex-wrap items-baseline gap-x-6 border-b-2 border-ink pb-2">
        <h1 className="m-0 text-[1.9rem]">{title}</h1>
        <span className="grow" />
        <Link to="/">Bendro</Link>
      </div>
      {found.isError ? (
        <Trouble error={found.error} again={() => void found.refetch()} />
      ) : found.data ? (
        // our own text, made into HTML by the server
        // biome-ignore lint/security/noDangerouslySetInnerHtml: nothing of anybody else's is in it
        <article className="told mt-4" dangerouslySetInnerHTML={{ __html: found.data.html }} />
      ) : (
        <Skeleton lines={8} />
      )}
    </main>
  )
}
