import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { api, type TrialBody } from '../data/api'
import { copyPut, waitingAll, waitingDrop } from '../data/keep'
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

const TEACHER = { who: 'teacher', by: 'T Marsh', school: 'fen' }
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
    await queue.open(TEACHER)
    replies = [{ status: 0 }]
    const held = queue.add(trial('one'))
    expect(queue.snapshot).toMatchObject({ waiting: [{ id: 'one' }], writing: 1 }) // in sight, and not yet in this browser's store
    await held
    expect(queue.snapshot.writing).toBe(0)
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
    await queue.open(TEACHER)
    const adding = queue.add(trial('one'))
    expect(api.PUT).toHaveBeenCalled()
    expect(queue.snapshot.waiting.map((w) => w.id)).toEqual(['one'])
    await adding
    await idle(queue)
    expect(await waitingAll()).toEqual([])
    expect(sent).toHaveLength(1)
  })

  it('says that the browser holds nothing, sends at once, and holds again when it can', async () => {
    const queue = new SaveQueue()
    await queue.open(TEACHER)
    const full = vi.spyOn(IDBObjectStore.prototype, 'add').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    replies = [{ status: 0 }]
    await queue.add(trial('one'))
    expect(queue.snapshot).toMatchObject({ holds: 'nothing', sending: 'away' })
    expect(queue.snapshot.waiting.map((w) => w.id)).toEqual(['one'])
    full.mockRestore()
    replies = [{ status: 0 }]
    await queue.add(trial('two'))
    expect(queue.snapshot.holds).toBe('all')
    await queue.flush()
    await idle(queue)
    expect(sent.map((s) => s.url)).toEqual(['/api/studies/study/trials/one', '/api/studies/study/trials/two'])
  })

  it('makes room by giving copies up before it gives up a trial', async () => {
    const queue = new SaveQueue()
    await queue.open(TEACHER)
    await copyPut('study:1', { large: true })
    const real = IDBObjectStore.prototype.add
    let full = true
    const store = vi.spyOn(IDBObjectStore.prototype, 'add').mockImplementation(function (this: IDBObjectStore, ...given) {
      if (full) throw new DOMException('full', 'QuotaExceededError')
      return real.apply(this, given)
    })
    const cleared = vi.spyOn(IDBObjectStore.prototype, 'clear').mockImplementation(function (this: IDBObjectStore) {
      full = false
      return this.delete('study:1')
    })
    replies = [{ status: 0 }]
    await queue.add(trial('one'))
    expect(queue.snapshot.holds).toBe('all')
    expect((await waitingAll()).map((w) => w.id)).toEqual(['one'])
    store.mockRestore()
    cleared.mockRestore()
  })

  it('opens where the browser refuses its store', async () => {
    const queue = new SaveQueue()
    const refused = vi.spyOn(IDBObjectStore.prototype, 'getAll').mockImplementation(() => {
      throw new DOMException('no', 'SecurityError')
    })
    await queue.open(TEACHER)
    expect(queue.snapshot).toMatchObject({ loaded: true, holds: 'nothing' })
    refused.mockRestore()
  })

  it('writes anew what waits when the store was cleared under it', async () => {
    const queue = new SaveQueue()
    await queue.open(TEACHER)
    replies = [{ status: 0 }]
    await queue.add(trial('one'))
    for (const w of await waitingAll()) await waitingDrop(w.seq as number)
    await queue.holdAgain()
    expect((await waitingAll()).map((w) => w.id)).toEqual(['one'])
    expect(queue.snapshot.holds).toBe('all')
  })

  it('goes on past what the server cannot digest', async () => {
    const queue = new SaveQueue()
    await queue.open(TEACHER)
    replies = [{ status: 500, body: { detail: 'Something went wrong that was not foreseen.', code: 'unforeseen' } }, { status: 200 }]
    await Promise.all([queue.add(trial('bad')), queue.add(trial('good'))])
    await vi.waitFor(() => expect(sent.map((s) => s.url.split('/').at(-1))).toEqual(['bad', 'good']))
    await vi.waitFor(() => expect(queue.snapshot.waiting.map((w) => [w.id, w.code])).toEqual([['bad', 'unforeseen']]))
  })

  it('tells a full disk in the server’s words', async () => {
    const queue = new SaveQueue()
    await queue.open(TEACHER)
    replies = [{ status: 507, body: { detail: 'The disk is full.', code: 'disk_full' } }]
    await queue.add(trial('one'))
    await vi.waitFor(() => expect(queue.snapshot).toMatchObject({ sending: 'away', says: 'The disk is full.' }))
    await queue.flush()
    await idle(queue)
    expect(queue.snapshot.says).toBe('')
  })

  it('lets a colleague of the same school send what another kept, and says for whom', async () => {
    const one = new SaveQueue()
    await one.open(TEACHER)
    replies = [{ status: 0 }]
    await one.add(trial('mine'))
    const colleague = new SaveQueue()
    await colleague.open({ who: 'colleague', by: 'R Sedge', school: 'fen' })
    expect(colleague.snapshot.others.map((w) => [w.id, w.by])).toEqual([['mine', 'T Marsh']])
    await colleague.adopt(colleague.snapshot.others)
    await idle(colleague)
    expect(sent.map((s) => s.body.kept_by)).toEqual(['T Marsh'])
    expect(await waitingAll()).toEqual([])
  })

  it('comes again by itself after the time that a busy server asks for', async () => {
    const queue = new SaveQueue()
    await queue.open(TEACHER)
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
    await queue.open(TEACHER)
    await Promise.all([queue.add(trial('a')), queue.add(trial('b')), queue.add(trial('c'))])
    await Promise.all([queue.flush(), queue.flush()])
    await idle(queue)
    expect(sent.map((s) => s.url.split('/').at(-1))).toEqual(['a', 'b', 'c'])
  })

  it('outlives a reload', async () => {
    const before = new SaveQueue()
    await before.open(TEACHER)
    replies = [{ status: 0 }]
    await before.add(trial('kept'))
    await vi.waitFor(() => expect(before.snapshot.sending).toBe('away'))
    const after = new SaveQueue()
    await after.open(TEACHER)
    await idle(after)
    expect(sent).toHaveLength(1)
  })

  it('never sends one teacher’s trials under another’s sign-in', async () => {
    const one = new SaveQueue()
    await one.open(TEACHER)
    replies = [{ status: 0 }]
    await one.add(trial('mine'))
    const other = new SaveQueue()
    await other.open({ who: 'elsewhere/other', by: 'Other', school: 'elsewhere' })
    expect(other.snapshot.waiting).toEqual([])
    await other.adopt(other.snapshot.others)
    expect(other.snapshot.others.map((w) => w.id)).toEqual(['mine'])
    expect(sent).toEqual([])
  })

  it('puts a refused trial aside with its sentence and goes on with the next', async () => {
    const queue = new SaveQueue()
    await queue.open(TEACHER)
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
    await queue.open(TEACHER)
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
    await queue.open(TEACHER)
    replies = [{ status: 401, body: { detail: 'Sign in again.', code: 'not_signed_in' } }]
    await queue.add(trial('later'))
    await vi.waitFor(() => expect(queue.snapshot.sending).toBe('signed_out'))
    await queue.flush()
    await idle(queue)
  })
})
