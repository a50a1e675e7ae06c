export type Saving<T> = {
  state: 'saved' | 'saving' | 'away' | 'refused' | 'clash'
  says?: string
  where?: string | null
  theirs?: { draft: T; version: number }
}
export type TypingNow<T> = { draft: T; saving: Saving<T> }

/** What the server answered to what was sent: stored, or refused in one of the ways that the page must tell apart. */
export type Answer<T> =
  | { kind: 'stored'; version: number }
  | { kind: 'away' | 'refused'; says: string; where: string | null }
  | { kind: 'clash'; says: string; theirs: { draft: T; version: number } }

export type Port<T> = {
  send: (version: number, draft: T) => Promise<Answer<T>>
  keep: (text: string) => void
  kept: () => string
}

export const PAUSE_MS = 500
/** What is typed within this time is taken back in one. */
export const ONE_STEP_MS = 2_000
const MOST_STEPS = 100
const AGAIN_MS = 4_000

/** Something being typed over time (a plan, a version of a device), one for each thing whatever page shows it. Kept in the browser
 *  at every key, sent after a short pause, told when someone else changed it. */
export class Typing<T extends object> {
  #snapshot: TypingNow<T>
  #version: number
  #sent: string
  #timer: ReturnType<typeof setTimeout> | undefined
  #busy: Promise<void> | null = null
  #past: T[] = []
  #pushedAt = 0
  readonly #listeners = new Set<() => void>()
  readonly #port: Port<T>

  constructor(draft: T, version: number, port: Port<T>) {
    this.#port = port
    this.#version = version
    this.#sent = JSON.stringify(draft)
    const kept = port.kept()
    this.#snapshot = { draft: kept ? { ...draft, ...(JSON.parse(kept) as T) } : draft, saving: { state: 'saved' } }
    if (this.dirty) this.#later(0)
  }

  subscribe = (listener: () => void) => {
    this.#listeners.add(listener)
    return () => this.#listeners.delete(listener)
  }

  get snapshot(): TypingNow<T> {
    return this.#snapshot
  }

  get version(): number {
    return this.#version
  }

  get dirty(): boolean {
    return JSON.stringify(this.#snapshot.draft) !== this.#sent
  }

  #set(part: Partial<TypingNow<T>>) {
    this.#snapshot = { ...this.#snapshot, ...part }
    for (const listener of this.#listeners) listener()
  }

  #later(ms: number) {
    clearTimeout(this.#timer)
    this.#timer = setTimeout(() => void this.send(), ms)
  }

  /** The study as the server has it. Taken over when it is newer and nothing is typed here. */
  meet(draft: T, version: number) {
    if (this.dirty || this.#busy || version <= this.#version) return
    this.adopt(draft, version)
  }

  /** The server's plan replaces what is here. */
  adopt(draft: T, version: number) {
    clearTimeout(this.#timer)
    this.#past = [] // what was typed before belongs to another draft
    this.#version = version
    this.#sent = JSON.stringify(draft)
    this.#port.keep('')
    this.#set({ draft, saving: { state: 'saved' } })
  }

  /** Something else of the study was changed from here (its title, its day): only the version moves on. */
  moved(version: number) {
    if (version > this.#version) this.#version = version
  }

  /** Whether something typed here can be taken back. */
  get canUndo(): boolean {
    return this.#past.length > 0
  }

  change = (part: Partial<T>) => {
    const now = performance.now()
    if (now - this.#pushedAt > ONE_STEP_MS) this.#past = [...this.#past, this.#snapshot.draft].slice(-MOST_STEPS)
    this.#pushedAt = now
    this.#put(part)
  }

  /** Back to what stood before the last bout of typing here; it is sent like anything else that is typed. */
  undo = () => {
    const before = this.#past.at(-1)
    if (!before) return
    this.#past = this.#past.slice(0, -1)
    this.#pushedAt = 0
    this.#put(before)
  }

  #put(part: Partial<T>) {
    // not stored yet, so it is not called saved; a refusal or a clash stays in sight until it is settled or sent again
    const saving = this.#snapshot.saving.state === 'saved' ? { state: 'saving' as const } : this.#snapshot.saving
    this.#set({ draft: { ...this.#snapshot.draft, ...part }, saving })
    this.#port.keep(JSON.stringify(this.#snapshot.draft))
    this.#later(PAUSE_MS)
  }

  /** Send what is typed. Calling it again while it sends waits for the same sending. */
  send = async (): Promise<void> => {
    clearTimeout(this.#timer)
    while (this.#busy) await this.#busy
    if (!this.dirty) {
      if (this.#snapshot.saving.state === 'saving') this.#set({ saving: { state: 'saved' } }) // typed and taken away again
      return
    }
    this.#busy = this.#sendOnce().finally(() => {
      this.#busy = null
    })
    await this.#busy
    if (this.#snapshot.saving.state === 'saving' && this.dirty) await this.send()
  }

  async #sendOnce(): Promise<void> {
    const text = JSON.stringify(this.#snapshot.draft)
    this.#set({ saving: { state: 'saving' } })
    const answer = await this.#port.send(this.#version, this.#snapshot.draft)
    if (answer.kind === 'stored') {
      this.#version = answer.version
      this.#sent = text
      if (!this.dirty) this.#port.keep('')
      this.#set({ saving: { state: this.dirty ? 'saving' : 'saved' } })
    } else if (answer.kind === 'clash') this.#set({ saving: { state: 'clash', says: answer.says, theirs: answer.theirs } })
    else {
      this.#set({ saving: { state: answer.kind, says: answer.says, where: answer.where } })
      if (answer.kind === 'away') this.#later(AGAIN_MS)
    }
  }

  /** After a clash: whose plan stands. */
  settle = (whose: 'mine' | 'theirs') => {
    const theirs = this.#snapshot.saving.theirs
    if (!theirs) return
    if (whose === 'theirs') this.adopt(theirs.draft, theirs.version)
    else {
      this.#version = theirs.version
      this.#sent = ''
      void this.send()
    }
  }

  /** Back to the plan that the server holds, when what is typed was refused. */
  giveUp = () => this.adopt(JSON.parse(this.#sent) as T, this.#version)
}
