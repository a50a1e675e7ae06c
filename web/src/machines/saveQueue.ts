import { answered, api, ask, type KeepSeen, Refusal, type RunBody, type Study, type Trial, type TrialBody, type Version, type VersionBody } from '../data/api'
import { copiesClear, copyGet, onNoCopies, onStoreLost, type Waiting, waitingAdd, waitingAll, waitingDrop, waitingPut } from '../data/keep'

/** others: what was kept in this browser in another's sign-in. writing: how many of the waiting are still on their way into this browser's
 *  store, where a page that closes now would lose them. holds: what this browser keeps; where it keeps nothing the page has to stay
 *  open until all is sent. says: the server's own words for not taking anything just now, "" for the usual ones. */
export type QueueState = {
  waiting: readonly Waiting[]
  others: readonly Waiting[]
  writing: number
  sending: 'idle' | 'now' | 'away' | 'signed_out'
  loaded: boolean
  clockOffS: number
  holds: 'all' | 'no_copies' | 'nothing'
  says: string
}
export type Account = { who: string; by: string; school: string }

/** Keeps every write in the browser until the server has acknowledged it; sends in order, again and again, never twice
 *  over: each write carries its own id and revision, so that sending again changes nothing. */
export class SaveQueue {
  #state: QueueState = { waiting: [], others: [], writing: 0, sending: 'idle', loaded: false, clockOffS: 0, holds: 'all', says: '' }
  #heard = new Set<() => void>()
  #timer: ReturnType<typeof setTimeout> | undefined
  #pause = 1_000
  #flushing = false
  #account: Account = { who: '', by: '', school: '' }
  /** Writes into the browser's own store that are under way. */
  #held = new WeakMap<Waiting, Promise<void>>()
  /** Told before the write leaves the queue, so that a trial is never in neither place. */
  onSaved: (w: Waiting, answer?: Trial) => void = () => {}
  /** Told the study as it stands once its run is open, so that the lane stays when the opening leaves the queue. */
  onOpened: (studyId: string, study: Study) => void = () => {}

  subscribe = (hear: () => void): (() => void) => {
    this.#heard.add(hear)
    return () => this.#heard.delete(hear)
  }
  get snapshot(): QueueState {
    return this.#state
  }

  /** Read what earlier visits left and begin to send. who: the account's id, so that one teacher's trials are never sent under another's
   *  sign-in, "" where nobody is signed in; formerly: what an earlier version of the program wrote for the same teacher. */
  async open(account: Account, formerly = account.who): Promise<void> {
    this.#account = account
    let held: Waiting[] = []
    try {
      held = await waitingAll()
    } catch {
      this.#set({ holds: 'nothing' }) // told in a line; what is kept from now on is sent at once
    }
    const mine = (w: Waiting) => account.who !== '' && (w.who === account.who || w.who === formerly)
    // what this page could not write anywhere is still in hand
    const inHand = this.#state.waiting.filter((w) => mine(w) && !held.some((h) => same(h, w)))
    const waiting = [...(await Promise.all(held.filter(mine).map((w) => this.#asReadings(w)))), ...inHand]
    this.#set({ waiting, others: held.filter((w) => !mine(w)), loaded: true, sending: 'idle', says: '' })
    void this.flush()
  }

  /** Keep a write. It is shown and on its way in the same moment; whether the browser holds it as well is told by `holds`. */
  async add(w: Omit<Waiting, 'who' | 'seq'>): Promise<void> {
    const whole: Waiting = { ...w, ...this.#account }
    // Written here, on its way and in sight in the same moment. Whichever of the two writes ends first, it leaves the queue only when
    // the server has it: until then it is in this browser, and sending it again changes nothing.
    const held = this.#hold(whole)
    this.#state = { ...this.#state, waiting: [...this.#state.waiting, whole], writing: this.#state.writing + 1 }
    void this.flush()
    this.#tell()
    await held
    this.#set({ writing: this.#state.writing - 1 })
  }

  /** Put a mended body in place of a refused one. */
  async mend(w: Waiting, body: TrialBody): Promise<void> {
    await this.#held.get(w)
    const { refused: _, clash: __, code: ___, ...rest } = w
    const next: Waiting = { ...rest, body }
    await this.#hold(next)
    this.#set({ waiting: this.#state.waiting.map((x) => (same(x, w) ? next : x)) })
    void this.flush()
  }

  /** Give up a write: only by the teacher's own choice, for a refused one, or when it lies elsewhere now. */
  async drop(w: Waiting): Promise<void> {
    await this.#letGo(w)
    this.#set({ waiting: this.#state.waiting.filter((x) => !same(x, w)), others: this.#state.others.filter((x) => !same(x, w)) })
    this.onSaved(w)
  }

  /** A colleague of the same school sends what another kept: each trial says for whom. */
  async adopt(writes: readonly Waiting[]): Promise<void> {
    for (const w of writes) {
      if (w.school !== this.#account.school || this.#account.who === '') continue
      const body = w.kind === 'trial' ? { ...(w.body as TrialBody), kept_by: (w.body as TrialBody).kept_by || (w.by ?? '') } : w.body
      const mine: Waiting = { ...w, ...this.#account, body }
      await this.#hold(mine)
      this.#state = {
        ...this.#state,
        waiting: [...this.#state.waiting, mine],
        others: this.#state.others.filter((x) => !same(x, w)),
      }
    }
    this.#tell()
    void this.flush()
  }

  /** The browser has taken its store away while the page is open: what waits is written anew. */
  async holdAgain(): Promise<void> {
    for (const w of [...this.#state.waiting, ...this.#state.others]) await this.#hold(w)
  }

  /** Copies could not be kept. */
  noCopies = (): void => {
    if (this.#state.holds === 'all') this.#set({ holds: 'no_copies' })
  }

  /** The one owner of every write into the browser's store: it hears each refusal, makes room where there is some, and else says so. */
  #hold(w: Waiting): Promise<void> {
    const put = async (): Promise<void> => {
      w.seq = w.seq === undefined ? await waitingAdd(w) : await waitingPut(w)
    }
    const held = put()
      .catch(async () => {
        await copiesClear() // copies can be had again; what waits cannot
        await put()
      })
      .then(() => {
        if (this.#state.holds === 'nothing') this.#set({ holds: 'all' })
      })
      .catch(() => this.#set({ holds: 'nothing' }))
    this.#held.set(w, held)
    return held
  }

  async #letGo(w: Waiting): Promise<void> {
    await this.#held.get(w)
    if (w.seq === undefined) return
    try {
      await waitingDrop(w.seq)
    } catch {
      this.#set({ holds: 'nothing' }) // it is sent once more by the next visit, which changes nothing
    }
  }

  async #asReadings(w: Waiting): Promise<Waiting> {
    const next = await asReadings(w)
    if (next !== w) await this.#hold(next)
    return next
  }

  flush = async (): Promise<void> => {
    if (this.#flushing) return
    this.#flushing = true
    clearTimeout(this.#timer)
    try {
      for (let w = this.#next(); w; w = this.#next()) {
        this.#state = { ...this.#state, sending: 'now' }
        this.#tellSoon()
        if (!(await this.#send(w))) return
      }
      this.#set({ sending: 'idle', says: '' })
      this.#pause = 1_000
    } finally {
      this.#flushing = false
    }
  }

  #next(): Waiting | undefined {
    return this.#state.waiting.find((w) => !w.refused)
  }

  /** True when the next may be sent. */
  async #send(w: Waiting): Promise<boolean> {
    let answer: Trial | undefined
    try {
      if (w.kind === 'run') {
        const opened: unknown = await ask(api.POST('/api/studies/{study_id}/runs', { params: { path: { study_id: w.studyId } }, body: w.body as RunBody }))
        this.onOpened(w.studyId, opened as Study) // the client widens tuples to arrays; the document says tuples
      } else if (w.kind === 'version') {
        const path = { study_id: w.studyId, version_id: w.id }
        await ask(api.PUT('/api/studies/{study_id}/versions/{version_id}', { params: { path }, body: w.body as VersionBody }))
      } else if (w.kind === 'seen') {
        const path = { study_id: w.studyId, trial_id: w.id }
        await ask(api.PUT('/api/studies/{study_id}/seen/{trial_id}', { params: { path }, body: w.body as KeepSeen }))
      } else if (w.kind === 'photo') {
        await putPhoto(w.studyId, w.id, w.body as Blob)
      } else {
        const path = { study_id: w.studyId, trial_id: w.id }
        answer = await ask(
          api.PUT('/api/studies/{study_id}/trials/{trial_id}', { params: { path }, body: { ...(w.body as TrialBody), sent_at: new Date().toISOString() } }),
        )
      }
    } catch (why) {
      if (!(why instanceof Refusal)) throw why
      // an answer that nobody foresaw is about this one write: those behind it go on
      if ((why.away && why.status !== 500) || why.status === 429)
        return this.#later('away', why.wait, why.status === 0 || why.code === 'busy' ? '' : why.message)
      if (why.status === 401) return this.#later('signed_out')
      await this.#held.get(w)
      if (why.code === 'reading_kept') {
        // the very reading of an instrument lies on the server, sent by another screen: nothing is lost and there is nothing to decide
        await this.drop(w)
        return true
      }
      const told: Waiting = { ...w, refused: why.message, code: why.code }
      if (why.code === 'trial_changed') told.clash = { theirs: why.facts.theirs as TrialBody, revision: why.facts.revision as number }
      await this.#hold(told)
      this.#set({ waiting: this.#state.waiting.map((x) => (same(x, w) ? told : x)) })
      return true
    }
    if (answer && answer.clock_off_s !== this.#state.clockOffS) this.#set({ clockOffS: answer.clock_off_s ?? 0 })
    this.onSaved(w, answer)
    await this.#letGo(w)
    this.#set({ waiting: this.#state.waiting.filter((x) => !same(x, w)) })
    return true
  }

  /** wait: what the server asks for, in milliseconds. A little is added by chance, so that a class does not come back as one. */
  #later(sending: 'away' | 'signed_out', wait: number | null = null, says = ''): false {
    this.#set({ sending, says })
    this.#timer = setTimeout(() => void this.flush(), wait === null ? this.#pause : wait * (1 + Math.random()))
    if (wait === null) this.#pause = Math.min(this.#pause * 1.7, 15_000)
    return false
  }

  #set(part: Partial<QueueState>): void {
    this.#state = { ...this.#state, ...part }
    this.#tell()
  }

  #tell(): void {
    for (const hear of this.#heard) hear()
  }

  /** What nobody waits to see is drawn after the request is on its way, not before. */
  #tellSoon(): void {
    setTimeout(() => this.#tell(), 0)
  }
}

/** Whether two are one write: the very same, or the same place in the browser's store. */
const same = (a: Waiting, b: Waiting): boolean => a === b || (a.seq !== undefined && a.seq === b.seq)

/** Send a photo of a version as the camera gave it; the server makes it small and takes its place data out. */
export const putPhoto = (study: string, version: string, file: Blob): Promise<Version> =>
  putPicture<Version>(`/api/studies/${study}/versions/${version}/photo`, file)

export async function putPicture<T>(url: string, file: Blob): Promise<T> {
  const sent = fetch(url, {
    method: 'PUT',
    credentials: 'same-origin',
    body: file,
    headers: { 'Content-Type': file.type || 'application/octet-stream' },
  })
  return ask<T>(sent.then((r) => answered<T>(r)))
}

type EarlierBody = { texts?: string[]; unit?: string; also_text?: string; also_unit?: string; behaviour?: string }

/** A trial that an earlier version of the program left here held one number, a second one and a word; the earliest had no unit, and were
 *  written under the plan that this browser saw last. */
async function asReadings(w: Waiting): Promise<Waiting> {
  if (w.kind !== 'trial' || (w.body as TrialBody).readings !== undefined) return w
  const { texts = [], unit, also_text = '', also_unit, behaviour = '', ...rest } = w.body as unknown as EarlierBody
  const study = await copyGet<{ draft: { measures?: { unit: string }[]; measure?: { unit: string }; also?: { unit: string } | null } }>(`study:${w.studyId}`)
  const units = [study?.draft.measures?.[0]?.unit ?? study?.draft.measure?.unit ?? '', study?.draft.measures?.[1]?.unit ?? study?.draft.also?.unit ?? '']
  const reading = (measure: string, written: string[], own: string) =>
    written.some((t) => t.trim()) ? [{ measure, payload: 1, texts: written, unit: own, taken: 'typed' as const, stamps: [] }] : []
  const body = {
    ...rest,
    readings: [
      ...reading('m1', texts, unit ?? units[0] ?? ''),
      ...reading('m2', [also_text], also_unit ?? units[1] ?? ''),
      ...reading('behaviour', [behaviour], ''),
    ],
  } as unknown as TrialBody
  return { ...w, body }
}

export const queue = new SaveQueue()
onStoreLost(() => void queue.holdAgain())
onNoCopies(queue.noCopies)
if (typeof window !== 'undefined') {
  window.addEventListener('online', () => void queue.flush())
  window.addEventListener('beforeunload', (leaving) => {
    // what this browser cannot hold is gone with the page
    const { waiting, holds } = queue.snapshot
    if (waiting.length && holds === 'nothing') leaving.preventDefault()
  })
}
