import { type DBSchema, type IDBPDatabase, openDB } from 'idb'
import type { RunBody, TrialBody, VersionBody } from './api'

/** One write that the server has not yet acknowledged. seq keeps the order; refused holds the server's sentence. */
export type Waiting = {
  seq?: number
  kind: 'trial' | 'run' | 'version' | 'photo'
  who: string
  studyId: string
  /** Of the trial or run; of the version, for a photo the one that it shows. */
  id: string
  body: TrialBody | RunBody | VersionBody | Blob
  refused?: string
  clash?: { theirs: TrialBody; revision: number }
}

interface Kept extends DBSchema {
  waiting: { key: number; value: Waiting; indexes: { byStudy: string } }
  copies: { key: string; value: unknown }
}

let opened: Promise<IDBPDatabase<Kept>> | null = null

function store(): Promise<IDBPDatabase<Kept>> {
  opened ??= openDB<Kept>('bendro', 1, {
    upgrade(db) {
      db.createObjectStore('waiting', { keyPath: 'seq', autoIncrement: true }).createIndex('byStudy', 'studyId')
      db.createObjectStore('copies')
    },
  })
  return opened
}

export const waitingAll = async (): Promise<Waiting[]> => (await store()).getAll('waiting')
export const waitingAdd = async (w: Waiting): Promise<number> => (await store()).add('waiting', w)
export const waitingPut = async (w: Waiting): Promise<number> => (await store()).put('waiting', w)
export const waitingDrop = async (seq: number): Promise<void> => (await store()).delete('waiting', seq)

/** The last good answer to a question, kept for when the server cannot be reached. */
export const copyPut = async (key: string, value: unknown): Promise<void> => {
  await (await store()).put('copies', value, key)
}
export const copyGet = async <T>(key: string): Promise<T | undefined> => (await (await store()).get('copies', key)) as T | undefined
export const copiesClear = async (): Promise<void> => (await store()).clear('copies')

/** Half-typed text, kept at once at every key so that nothing typed is lost. */
export const typed = {
  get: (key: string): string => localStorage.getItem(`typed:${key}`) ?? '',
  set: (key: string, text: string): void => {
    if (text === '') localStorage.removeItem(`typed:${key}`)
    else localStorage.setItem(`typed:${key}`, text)
  },
}
