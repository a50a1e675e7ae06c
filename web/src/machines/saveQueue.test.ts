import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { api, type TrialBody } from '../data/api'
import { waitingAll, waitingDrop } from '../data/keep'
import { SaveQueue } from './saveQueue'

type Reply = { status: number; body?: unknown; wait?: string }
let replies: Reply[] = []
let sent: { url: string; body: TrialBody }[] = []

vi.stubGlobal('fetch', async (request: Request) => {
  const reply = replies.shift() ?? { status: 200, body: {} }
  if (reply.status === 0) throw new TypeError('no network')
  sent.push({ url: new URL(request.url).pathname, body: await request.json() })
  return new Response(JSON.stringify(reply.body ?? {}), {
    status: reply.status,
    headers: { 'content-type': 'application/json', ...(reply.wait ? { 'Retry-After': reply.wait } : {}) },
  })
})
// the client makes its requests against the page's own address
vi.spyOn(api, 'PUT').mockImplementation((async (path: string, init: { params: { path: Record<string, string> }; body: unknown }) => {
  const url = `http://localhost${path.replace(/\{(\w+)\}/g, (_, k: string) => init.params.path[k] ?? '')}`
  const response = await fetch(new Request(url, { method: 'PUT', body: JSON.stringify(init.body), headers: { 'content-type': 'application/json' } }))
  const data: unknown = await response.json()
  return response.ok ? { data, response } : { error: data, response }
}) as unknown as typeof api.PUT)

const body = (text: string): TrialBody =>
  ({
    block: 1,
    level: '4',
    group: 'Red',
    readings: [{ measure: 'm1', payload: 1, texts: [text], unit: 'm', taken: 'typed', stamps: [] }],
    released_at: '2026-05-04T10:00:00Z',
    state: 'kept',
    revision: 1,
  }) as unknown as TrialBody
const trial = (id: string, text = '4.52') => ({ kind: 'trial' as const, studyId: 'study', id, body: body(text) })
const idle = (queue: SaveQueue) => vi.waitFor(() => expect(queue.snapshot).toMatchObject({ waiting: [], sending: 'idle' }))

describe('the save queue', () => {
  beforeEach(async () => {
    for (const w of await waitingAll()) await waitingDrop(w.seq as number)
    replies = []
    sent = []
  })

  it('shows a trial at once and lets it go only when the server has it', async () => {
    const queue = new SaveQueue()
    await queue.open('school/teacher')
    replies = [{ status: 0 }]
    await queue.add(trial('one'))
    await vi.waitFor(() => expect(queue.snapshot.sending).toBe('away'))
    expect(queue.snapshot.waiting.map((w) => w.id)).toEqual(['one'])
    expect((await waitingAll()).map((w) => w.id)).toEqual(['one'])
    await queue.flush()
    await idle(queue)
    expect(sent.map((s) => s.url)).toEqual(['/api/studies/study/trials/one'])
    expect(await waitingAll()).toEqual([])
  })

  it('is on its way before the browser has written it, and stays in the browser until the server has it', async () => {
    const queue = new SaveQueue()
    await queue.open('school/teacher')
    const adding = queue.add(trial('one'))
    expect(api.PUT).toHaveBeenCalled()
    expect(queue.snapshot.waiting.map((w) => w.id)).toEqual(['one'])
    await adding
    await idle(queue)
    expect(await waitingAll()).toEqual([])
    expect(sent).toHaveLength(1)
  })

  it('sends what a browser that keeps nothing could not write', async () => {
    const queue = new SaveQueue()
    await queue.open('school/teacher')
    const full = vi.spyOn(IDBObjectStore.prototype, 'add').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    await expect(queue.add(trial('one'))).rejects.toThrow('full')
    full.mockRestore()
    await idle(queue)
    expect(sent.map((s) => s.url)).toEqual(['/api/studies/study/trials/one'])
  })

  it('comes again by itself after the time that a busy server asks for', async () => {
    const queue = new SaveQueue()
    await queue.open('school/teacher')
    const waits = vi.spyOn(globalThis, 'setTimeout')
    replies = [
      { status: 503, wait: '2' },
      { status: 503, wait: '0' },
    ]
    await queue.add(trial('one'))
    await vi.waitFor(() => expect(waits.mock.calls.some(([, ms]) => (ms ?? 0) >= 2_000 && (ms ?? 0) <= 4_000)).toBe(true))
    await queue.flush()
    await idle(queue)
    expect(sent.map((s) => s.url)).toEqual(Array(3).fill('/api/studies/study/trials/one'))
    waits.mockRestore()
  })

  it('sends in order, each once, however often it is asked', async () => {
    const queue = new SaveQueue()
    await queue.open('school/teacher')
    await Promise.all([queue.add(trial('a')), queue.add(trial('b')), queue.add(trial('c'))])
    await Promise.all([queue.flush(), queue.flush()])
    await idle(queue)
    expect(sent.map((s) => s.url.split('/').at(-1))).toEqual(['a', 'b', 'c'])
  })

  it('outlives a reload', async () => {
    const before = new SaveQueue()
    await before.open('school/teacher')
    replies = [{ status: 0 }]
    await before.add(trial('kept'))
    await vi.waitFor(() => expect(before.snapshot.sending).toBe('away'))
    const after = new SaveQueue()
    await after.open('school/teacher')
    await idle(after)
    expect(sent).toHaveLength(1)
  })

  it('never sends one teacher’s trials under another’s sign-in', async () => {
    const one = new SaveQueue()
    await one.open('school/teacher')
    replies = [{ status: 0 }]
    await one.add(trial('mine'))
    const other = new SaveQueue()
    await other.open('elsewhere/other')
    expect(other.snapshot.waiting).toEqual([])
    expect(sent).toEqual([])
  })

  it('puts a refused trial aside with its sentence and goes on with the next', async () => {
    const queue = new SaveQueue()
    await queue.open('school/teacher')
    replies = [{ status: 422, body: { detail: '“far” is not a number.', code: 'reading_words' } }, { status: 200 }]
    await Promise.all([queue.add(trial('bad', 'far')), queue.add(trial('good'))])
    await vi.waitFor(() => expect(queue.snapshot.waiting.map((w) => [w.id, w.refused])).toEqual([['bad', '“far” is not a number.']]))
    const bad = queue.snapshot.waiting[0]
    if (bad) await queue.mend(bad, body('4.1'))
    await idle(queue)
    expect(sent.at(-1)?.body.readings?.[0]?.texts).toEqual(['4.1'])
  })

  it('shows both sides of a clash and drops one’s own only when told to', async () => {
    const queue = new SaveQueue()
    await queue.open('school/teacher')
    replies = [{ status: 409, body: { detail: 'changed on another device', code: 'trial_changed', facts: { theirs: body('4.44'), revision: 2 } } }]
    await queue.add(trial('both'))
    await vi.waitFor(() => expect(queue.snapshot.waiting[0]?.clash).toMatchObject({ revision: 2, theirs: { readings: [{ texts: ['4.44'] }] } }))
    const mine = queue.snapshot.waiting[0]
    if (mine) await queue.drop(mine)
    expect(queue.snapshot.waiting).toEqual([])
    expect(await waitingAll()).toEqual([])
  })

  it('waits for a new sign-in', async () => {
    const queue = new SaveQueue()
    await queue.open('school/teacher')
    replies = [{ status: 401, body: { detail: 'Sign in again.', code: 'not_signed_in' } }]
    await queue.add(trial('later'))
    await vi.waitFor(() => expect(queue.snapshot.sending).toBe('signed_out'))
    await queue.flush()
    await idle(queue)
  })
})
