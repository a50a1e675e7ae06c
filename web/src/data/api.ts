import createClient from 'openapi-fetch'
import { deviceClock } from '../machines/deviceClock'
import type { components, paths } from './schema'
import { signedOut } from './signedOut'

export type Study = components['schemas']['StudyOut']
export type StudyLine = components['schemas']['StudyLine']
export type Draft = components['schemas']['Draft']
export type VariableDraft = components['schemas']['VariableDraft']
export type MeasureDraft = components['schemas']['MeasureDraft']
export type Problem = components['schemas']['ProblemOut']
export type Turn = components['schemas']['TurnOut']
export type Trial = components['schemas']['TrialOut']
export type TrialBody = components['schemas']['TrialBody']
export type RunBody = components['schemas']['RunBody']
export type TrialChange = components['schemas']['TrialChangeOut']
export type Looked = components['schemas']['LookedOut']
export type Question = components['schemas']['QuestionOut']
export type Report = components['schemas']['ReportOut']
export type ReportLine = components['schemas']['ReportLineOut']
export type SumChecked = components['schemas']['SumOut']
export type NotHeld = components['schemas']['NotHeldOut']
export type Seen = components['schemas']['SeenOut']
export type KeepSeen = components['schemas']['KeepSeenBody']
export type FoundOut = components['schemas']['FoundOut']
export type HowTaken = components['schemas']['ReadingSeenOut']['taken']
export type Limit = components['schemas']['Limit']
export type Act = components['schemas']['Act']
export type Span = components['schemas']['Span']
export type TableColumn = components['schemas']['TableColumnOut']
export type Reading = components['schemas']['ReadingOut']
export type Family = components['schemas']['Family']
export type Analysis = components['schemas']['Analysis']
export type LevelSummary = components['schemas']['LevelSummary']
export type Ahead = components['schemas']['Ahead']
export type Shopping = components['schemas']['Shopping']
export type ShoppingLine = components['schemas']['ShoppingLine']
export type Joining = components['schemas']['JoiningOut']
export type Templates = components['schemas']['TemplatesOut']
export type RotaMade = components['schemas']['RotaMade']
export type Sitting = components['schemas']['Sitting']
export type Conclusion = components['schemas']['Conclusion']
export type Version = components['schemas']['VersionOut']
export type VersionDraft = components['schemas']['VersionDraft']
export type PlanChange = components['schemas']['PlanChangeOut']
export type MaterialDraft = components['schemas']['MaterialDraft']
export type Held = components['schemas']['Held']
export type Me = components['schemas']['Me']
export type Offer = components['schemas']['Offer']
export type DerivedDraft = components['schemas']['DerivedDraft']
export type Binding = components['schemas']['Binding']
export type Calculator = components['schemas']['CalculatorOut']
export type ThrownAway = components['schemas']['ThrownAwayOut']
export type Beside = components['schemas']['BesideOut']
export type SameTest = components['schemas']['SameTestOut']
export type Together = components['schemas']['TogetherOut']
export type PracticeItem = components['schemas']['PracticeOut']
export type Marked = components['schemas']['MarkedOut']
export type ToMark = components['schemas']['MarkingOut']
export type VersionBody = components['schemas']['VersionBody']
export type Pictures = components['schemas']['PicturesOut']
export type Response_ = components['schemas']['ResponseOut']
export type ReadingBody = components['schemas']['ReadingBody']
export type ReadingGiven = components['schemas']['ReadingRecord']
export type Came = components['schemas']['CameOut']
export type School = components['schemas']['SchoolOut']
export type Patch = { version: number } & Partial<components['schemas']['StudyPatch']>
/** What is left out of a patch is not changed, though the document gives every part a default. */
export const patchOf = (part: Patch) => part as components['schemas']['StudyPatch']
type Sorry = components['schemas']['Sorry']

/** What the server refused: a sentence, a code, a place; `away` when it could not be asked at all. */
export class Refusal extends Error {
  readonly code: string
  readonly where: string | null
  readonly status: number
  readonly facts: Record<string, unknown>
  /** So long the server asks to wait before it is asked again, in milliseconds; null when it does not say. */
  readonly wait: number | null
  constructor(says: string, code: string, status: number, where: string | null = null, facts: Record<string, unknown> = {}, wait: number | null = null) {
    super(says)
    this.code = code
    this.status = status
    this.where = where
    this.facts = facts
    this.wait = wait
  }
  get away(): boolean {
    return this.status === 0 || this.status >= 500
  }
}

/** Every answer tells the server's time. */
async function heard(request: Request): Promise<Response> {
  const asked = performance.now()
  const response = await fetch(request)
  deviceClock.heard(Date.parse(response.headers.get('Date') ?? ''), performance.now() - asked)
  return response
}

export const api = createClient<paths>({ baseUrl: '', credentials: 'same-origin', fetch: heard })

type Answer<T> = Promise<{ data?: T; error?: unknown; response: Response }>

/** What a plain call gave, in the form in which the client gives its answers: for a body that is a file. */
export async function answered<T>(response: Response): Promise<{ data?: T; error?: unknown; response: Response }> {
  const body: unknown = await response.json().catch(() => undefined)
  return response.ok ? { data: body as T, response } : { error: body, response }
}

/** The data of an answer, or a thrown Refusal with the server's own sentence. */
export async function ask<T>(call: Answer<T>): Promise<T> {
  let found: Awaited<Answer<T>>
  try {
    found = await call
  } catch {
    throw new Refusal('The server cannot be reached just now.', 'away', 0)
  }
  if (found.response.ok) return found.data as T
  if (found.response.status === 401) signedOut.set(true)
  const sorry = found.error as Partial<Sorry> | undefined
  throw new Refusal(
    sorry?.detail ?? `The server answered ${found.response.status}.`,
    sorry?.code ?? 'http',
    found.response.status,
    sorry?.where ?? null,
    (sorry?.facts ?? {}) as Record<string, unknown>,
    inMilliseconds(found.response.headers.get('Retry-After')),
  )
}

const inMilliseconds = (seconds: string | null): number | null => (seconds !== null && /^\d{1,4}$/.test(seconds) ? Number(seconds) * 1_000 : null)
