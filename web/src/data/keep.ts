import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import type { KeepSeen, RunBody, TrialBody, VersionBody } from './api'

/** One write that the server has not yet acknowledged. seq keeps the order; refused holds the server's sentence. */
export type Waiting = {
  seq?: number
  kind: 'trial' | 'run' | 'version' | 'photo' | 'seen'
  /** The account in whose sign-in it was kept; its name and its school, so that it can be told and sent by a colleague. */
  who: string
  by?: string
  school?: string
  studyId: string
  /** What the study is called. */
  title?: string
  /** Of the trial or run; of the version, for a photo the one that it shows; of what was seen, the trial beside which it is kept. */
  id: string
  body: TrialBody | RunBody | VersionBody | KeepSeen | Blob
  refused?: string
  /** Of the refusal. */
  code?: string
  clash?: { theirs: TrialBody; revision: number }
}

interface Kept extends DBSchema {
  waiting: { key: number; value: Waiting; indexes: { byStudy: string } }
  copies: { key: string; value: unknown }
}

let opened: Promise<IDBPDatabase<Kept>> | null = null
let lost: () => void = () => {}

/** Told when the browser has taken the store away while the page is open: what waits is written anew. */
export const onStoreLost = (hear: () => void): void => {
  lost = hear
}

function gone(): void {
  opened = null
  lost()
}

function store(): Promise<IDBPDatabase<Kept>> {
  opened ??= asked().catch((why: unknown) => {
    opened = null // the next write tries again
    throw why
  })
  return opened
}

// refused at the very opening or later: both are heard as a promise that was not kept
async function asked(): Promise<IDBPDatabase<Kept>> {
  return openDB<Kept>('bendro', 1, {
    upgrade(db) {
      db.createObjectStore('waiting', { keyPath: 'seq', autoIncrement: true }).createIndex('byStudy', 'studyId')
      db.createObjectStore('copies')
    },
    terminated: gone,
    // somebody clears the store: it is let go, and made anew
    blocking: (_now, _wanted, event) => {
      ;(event.target as IDBDatabase).close()
      gone()
    },
  })
}

export const waitingAll = async (): Promise<Waiting[]> => (await store()).getAll('waiting')
export const waitingAdd = (w: Waiting): Promise<number> => written(w, 'add')
export const waitingPut = (w: Waiting): Promise<number> => written(w, 'put')
export const waitingDrop = async (seq: number): Promise<void> => (await store()).delete('waiting', seq)

/** Committed outright: left to itself the browser asks the page once more before it commits, and a page that is gone by then has kept nothing. */
async function written(w: Waiting, how: 'add' | 'put'): Promise<number> {
  const change = (await store()).transaction('waiting', 'readwrite')
  const at = change.store[how](w)
  change.commit()
  await change.done
  return at
}

/** Told when the browser keeps no copies (its store is full or refused): without a network the pages then have nothing to show. */
let copyless: () => void = () => {}
export const onNoCopies = (hear: () => void): void => {
  copyless = hear
}

/** The last good answer to a question, kept for when the server cannot be reached. */
export const copyPut = async (key: string, value: unknown): Promise<void> => {
  await store()
    .then((db) => db.put('copies', value, key))
    .catch(copyless)
}
export const copyGet = async <T>(key: string): Promise<T | undefined> => {
  const found = await store()
    .then((db) => db.get('copies', key))
    .catch(copyless)
  return found as T | undefined
}
export const copiesClear = async (): Promise<void> => {
  await store()
    .then((db) => db.clear('copies'))
    .catch(copyless)
}

/** Short texts of this browser; where it keeps nothing, as long as the page is open. */
const here = new Map<string, string>()
export const local = {
  get: (key: string): string | null => {
    try {
      return localStorage.getItem(key) ?? here.get(key) ?? null
    } catch {
      return here.get(key) ?? null
    }
  },
  set: (key: string, text: string | null): void => {
    here.delete(key)
    try {
      if (text === null) localStorage.removeItem(key)
      else localStorage.setItem(key, text)
    } catch {
      if (text !== null) here.set(key, text)
    }
  },
}

/** Half-typed text, kept at once at every key so that nothing typed is lost. */
export const typed = {
  get: (key: string): string => local.get(`typed:${key}`) ?? '',
  set: (key: string, text: string): void => local.set(`typed:${key}`, text === '' ? null : text),
}
