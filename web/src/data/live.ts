import { useEffect } from 'react'
import type { Study, Trial, Version } from './api'
import { setLive } from './liveState'
import { anew, client, trialKept } from './queries'
import { type Press, type Screen, heardPress, heardScreen, screenId } from './screens'
import { signedOut } from './signedOut'

type Word = { n: number; kind: string; subject: string; revision: number; trial?: Trial; screen?: Screen | null; press?: Press; at?: number }

/** As the server closes a connection whose sign-in has ended (bendro/api/live.py). */
const SIGNED_OUT = 4401
/** A connection that says nothing for so long after it was opened never will; one that ends comes back after so long, and later and later. */
const SILENT_MS = 5_000
const AGAIN_MS = [250, 1_000, 2_000, 5_000]
/** A page that is left is followed on for so long: the next one is most often of the same study. */
const LINGER_MS = 1_500
/** What follows from a trial is asked for a moment later, so that ten at once are one question. */
const REST_MS = 250
const OF_TRIALS = ['study', 'beside', 'conclusion', 'pictures', 'versions', 'history', 'taken-back', 'desk']
const OF_ALL = [
  'study',
  'trials',
  'analysis',
  'ahead',
  'beside',
  'conclusion',
  'pictures',
  'rota',
  'shopping',
  'templates',
  'versions',
  'changes',
  'reports',
  'joining',
  'screens',
  'desk',
  'words',
]

/** One stream of one study, however many parts of the page follow it. */
class Stream {
  users = 0
  #socket: WebSocket | undefined
  #timer: ReturnType<typeof setTimeout> | undefined
  #rest: ReturnType<typeof setTimeout> | undefined
  #tries = 0
  #was = false
  #last = 0
  /** Whether it was away: of two at one moment the one with the lower number may have come second. */
  #lost = false
  #over = false

  constructor(readonly study: string) {
    setLive(study, 'opening')
    this.#open()
    window.addEventListener('online', this.#now)
  }

  close() {
    this.#over = true
    clearTimeout(this.#timer)
    clearTimeout(this.#rest)
    clearTimeout(this.#desk)
    window.removeEventListener('online', this.#now)
    this.#socket?.close()
    setLive(this.study, 'off')
  }

  #now = () => {
    clearTimeout(this.#timer)
    this.#open()
  }

  #open() {
    this.#socket?.close()
    const socket = new WebSocket(`${location.origin.replace(/^http/, 'ws')}/api/studies/${this.study}/live?screen=${screenId}`)
    this.#socket = socket
    const silent = setTimeout(() => socket.close(), SILENT_MS)
    socket.onmessage = (e: MessageEvent<string>) => {
      clearTimeout(silent)
      this.#hear(JSON.parse(e.data) as Word)
    }
    socket.onclose = (e) => {
      clearTimeout(silent)
      if (this.#over || this.#socket !== socket) return
      if (e.code === SIGNED_OUT) signedOut.set(true)
      this.#tries += 1
      this.#lost = this.#was
      setLive(this.study, this.#was ? 'away' : this.#tries > 2 ? 'never' : 'opening')
      this.#timer = setTimeout(() => this.#open(), AGAIN_MS[Math.min(this.#tries, AGAIN_MS.length) - 1])
    }
  }

  leaving(): void {
    if (this.#socket?.readyState === WebSocket.OPEN) this.#socket.send('leave')
  }

  #rounds = new Map<string, (at: number) => void>()
  /** One round trip: when it was asked, the server's time in s, and when the answer came; null where none came. */
  round(): Promise<Round | null> {
    const socket = this.#socket
    if (socket?.readyState !== WebSocket.OPEN) return Promise.resolve(null)
    const name = String(Math.floor(Math.random() * 1e9))
    return new Promise((resolve) => {
      const sent = performance.now()
      const late = setTimeout(() => {
        this.#rounds.delete(name)
        resolve(null)
      }, SILENT_MS)
      this.#rounds.set(name, (at) => {
        clearTimeout(late)
        this.#rounds.delete(name)
        resolve({ sent, at, back: performance.now() })
      })
      socket.send(`clock ${name}`)
    })
  }

  #hear(word: Word) {
    const { study } = this
    if (word.kind === 'clock') return this.#rounds.get(word.subject)?.(word.at ?? 0)
    if (word.kind === 'screen') {
      heardScreen(study, word.subject, word.screen ?? null)
      return this.#deskSoon()
    }
    if (word.kind === 'press') return word.press && heardPress(study, word.press)
    if (word.kind === 'screens') return void anew(['screens', study])
    if (word.kind === 'newest') {
      // what happened while nobody listened is read from the record
      const known = this.#was ? this.#last : (client.getQueryData<Study>(['study', study])?.newest ?? 0)
      if (word.n !== known || this.#lost) for (const name of OF_ALL) void anew([name, study])
      if (this.#was) void anew(['screens', study]) // what is told of a screen has no number
      this.#was = true
      this.#lost = false
      this.#last = word.n
      this.#tries = 0
      return setLive(study, 'here')
    }
    this.#last = Math.max(this.#last, word.n)
    if (word.kind === 'trial') {
      if (this.#known(word)) return
      if (word.trial) trialKept(study, word.trial)
      else void anew(['trials', study])
      void anew(['analysis', study])
      clearTimeout(this.#rest)
      this.#rest = setTimeout(() => {
        for (const name of OF_TRIALS) void anew([name, study])
        void anew(['home'])
      }, REST_MS)
      return
    }
    if (!this.#known(word)) for (const name of OF_ALL) void anew([name, study])
  }

  #desk: ReturnType<typeof setTimeout> | undefined
  #deskSoon() {
    this.#desk ??= setTimeout(() => {
      this.#desk = undefined
      void anew(['desk', this.study])
    }, DESK_MS)
  }

  /** Whether this screen has it already, most often since it wrote it. */
  #known({ kind, subject, revision }: Word): boolean {
    if (kind === 'plan') return (client.getQueryData<Study>(['study', this.study])?.version ?? 0) >= revision
    const list = kind === 'trial' ? 'trials' : kind === 'version' ? 'versions' : ''
    const known = list ? client.getQueryData<(Trial | Version)[]>([list, this.study])?.find((one) => one.id === subject) : undefined
    return known !== undefined && (known.revision ?? 0) >= revision
  }
}

export type Round = { sent: number; at: number; back: number }
/** The desk is asked anew at most so often for what screens say. */
const DESK_MS = 1_000

const streams = new Map<string, Stream>()

/** While this is on a page, what others do to the study is told to it as it happens. */
export function useLive(study: string): void {
  useEffect(() => {
    const stream = streams.get(study) ?? new Stream(study)
    streams.set(study, stream)
    stream.users += 1
    return () => {
      stream.users -= 1
      setTimeout(() => {
        if (stream.users || streams.get(study) !== stream) return
        streams.delete(study)
        stream.close()
      }, LINGER_MS)
    }
  }, [study])
}

/** The page goes: a word on the stream is on its way at once, and outlives it. */
export const sayLeaving = (study: string): void => streams.get(study)?.leaving()

/** A round trip to the server, while a stream of the study stands. */
export const roundTrip = async (study: string): Promise<Round | null> => (await streams.get(study)?.round()) ?? null
