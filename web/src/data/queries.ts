import { keepPreviousData, notifyManager, QueryClient, useQuery } from '@tanstack/react-query'
import {
  type Ahead,
  api,
  ask,
  type Analysis,
  type Beside,
  type Calculator,
  type Conclusion,
  type Family,
  type Joining,
  type Me,
  type PlanChange,
  type Pictures,
  Refusal,
  type Report,
  type ReportLine,
  type RotaMade,
  type SameTest,
  type Seen,
  type Shopping,
  type Study,
  type StudyLine,
  type Templates,
  type ThrownAway,
  type Together,
  type ToMark,
  type Trial,
  type TrialChange,
  type Version,
} from './api'
import { copyGet, copyPut } from './keep'
import { useLiveState } from './liveState'

export const client = new QueryClient({
  defaultOptions: {
    queries: {
      // A whole class that reloads at once is told to come again in a second: it is asked until it is let in.
      retry: (n, e) => e instanceof Refusal && e.away && n < (e.wait === null ? 1 : 20),
      retryDelay: (_, e) => (e instanceof Refusal && e.wait !== null ? e.wait * (1 + Math.random()) : 1_000),
      staleTime: 2_000,
      networkMode: 'always',
    },
    mutations: { networkMode: 'always' },
  },
})

// An answer is on the screen before the write that it answers leaves the queue: a trial is never in neither place.
notifyManager.setScheduler(queueMicrotask)

/** What was asked before something was written may not know of it: it is asked anew, also where its first answer is still on its way. */
export function anew(queryKey: readonly unknown[]): Promise<void> {
  void client.cancelQueries({ queryKey })
  return client.invalidateQueries({ queryKey })
}

/** A trial that the server has acknowledged is in the list at once, and in the copy that is read when the server is away. */
export function trialKept(study: string, trial: Trial): void {
  void client.cancelQueries({ queryKey: ['trials', study] }) // a list that was asked for before would come without it
  const known = client.setQueryData<Trial[]>(['trials', study], (list) => list && [...list.filter((t) => t.id !== trial.id), trial])
  if (known) void copyPut(`trials:${study}`, known)
}

/** Ask the server; when it cannot be reached, give the copy kept from the last time. */
async function orCopy<T>(key: string, call: () => Promise<unknown>): Promise<T> {
  try {
    const fresh = (await call()) as T // the client widens tuples to arrays; the document says tuples
    void copyPut(key, fresh) // goes on while the answer is drawn
    return fresh
  } catch (why) {
    if (why instanceof Refusal && why.away) {
      const kept = await copyGet<T>(key)
      if (kept !== undefined) return kept
    }
    throw why
  }
}

export const useMe = () => useQuery<Me>({ queryKey: ['me'], queryFn: () => orCopy('me', () => ask(api.GET('/api/session'))), staleTime: 60_000 })
export const useFamilies = () =>
  useQuery<Family[]>({ queryKey: ['families'], queryFn: () => orCopy('families', () => ask(api.GET('/api/families'))), staleTime: Number.POSITIVE_INFINITY })
export const useHome = () => useQuery<StudyLine[]>({ queryKey: ['home'], queryFn: () => orCopy('home', () => ask(api.GET('/api/studies'))) })

/** How often a screen to which nothing is told asks what others have done. */
const FOLLOW_MS = 3_000
const useFollow = (id: string, followed: boolean): number | false => {
  const live = useLiveState(id)
  return followed && (live === 'never' || live === 'away') ? FOLLOW_MS : false
}
const at = (id: string) => ({ params: { path: { study_id: id } } })
export const useStudy = (id: string, followed = false) =>
  useQuery<Study>({
    queryKey: ['study', id],
    refetchInterval: useFollow(id, followed),
    queryFn: () => orCopy(`study:${id}`, () => ask(api.GET('/api/studies/{study_id}', at(id)))),
  })
/** followed: another screen's changes are noticed within seconds. ready: it is time to ask for them. */
export const useTrials = (id: string, followed = false, ready = true) =>
  useQuery<Trial[]>({
    queryKey: ['trials', id],
    enabled: ready,
    refetchInterval: useFollow(id, followed),
    queryFn: () => orCopy(`trials:${id}`, () => ask(api.GET('/api/studies/{study_id}/trials', at(id)))),
  })
export const useAnalysis = (id: string, response = '', factor = '') =>
  useQuery<Analysis>({
    queryKey: ['analysis', id, response, factor],
    queryFn: () =>
      orCopy(`analysis:${id}:${response}:${factor}`, () =>
        ask(api.GET('/api/studies/{study_id}/analysis', { params: { path: { study_id: id }, query: { response, factor } } })),
      ),
  })
/** What the study found as it stands; asked for where trials are kept. A study of which nothing can be said yet has none. */
export const useConclusion = (id: string, ready: boolean) =>
  useQuery<Conclusion>({
    queryKey: ['conclusion', id],
    enabled: ready,
    queryFn: () => orCopy(`conclusion:${id}`, () => ask(api.GET('/api/studies/{study_id}/conclusion', at(id)))),
  })
export const useBeside = (id: string) =>
  useQuery<Beside>({ queryKey: ['beside', id], queryFn: () => orCopy(`beside:${id}`, () => ask(api.GET('/api/studies/{study_id}/beside', at(id)))) })
/** The newest report of every study, with what is missing in it. */
export const useMarking = () => useQuery<ToMark[]>({ queryKey: ['marking'], queryFn: () => ask(api.GET('/api/marking')) })
/** Every test that trials were kept for, with its studies; and some of them judged together. */
export const useTests = () => useQuery<SameTest[]>({ queryKey: ['together'], queryFn: () => ask(api.GET('/api/together')) })
export const useTogether = (study: readonly string[]) =>
  useQuery<Together>({
    queryKey: ['together', ...study],
    enabled: study.length > 0,
    queryFn: async () => (await ask(api.GET('/api/together/judged', { params: { query: { study: [...study] } } }))) as Together, // tuples, not arrays
    placeholderData: (before) => before,
  })
/** What the pictures of a study draw. state: rises when the study has changed. */
export const usePictures = (id: string, response: string, factor: string, state: string) =>
  useQuery<Pictures>({
    queryKey: ['pictures', id, response, factor, state],
    queryFn: () =>
      orCopy(`pictures:${id}:${response}:${factor}`, () =>
        ask(api.GET('/api/studies/{study_id}/pictures', { params: { path: { study_id: id }, query: { response, factor } } })),
      ),
    placeholderData: (before) => before,
  })
export const useCalculators = () =>
  useQuery<Calculator[]>({ queryKey: ['calculators'], queryFn: () => ask(api.GET('/api/calculators')), staleTime: Number.POSITIVE_INFINITY })
export const useThrownAway = () => useQuery<ThrownAway[]>({ queryKey: ['thrown-away'], queryFn: () => ask(api.GET('/api/studies/thrown-away')) })
export const useAhead = (id: string) =>
  useQuery<Ahead>({ queryKey: ['ahead', id], queryFn: () => orCopy(`ahead:${id}`, () => ask(api.GET('/api/studies/{study_id}/ahead', at(id)))) })
export const useRota = (id: string) =>
  useQuery<RotaMade | null>({ queryKey: ['rota', id], queryFn: () => orCopy(`rota:${id}`, () => ask(api.GET('/api/studies/{study_id}/rota', at(id)))) })
export const useShopping = (id: string) =>
  useQuery<Shopping>({ queryKey: ['shopping', id], queryFn: () => orCopy(`shopping:${id}`, () => ask(api.GET('/api/studies/{study_id}/shopping', at(id)))) })
export const useTemplates = (id: string, printer: { paper: 'a4' | 'a3' | 'letter' | 'legal' | 'tabloid'; margin: number; line: number; square: number }) =>
  useQuery<Templates>({
    queryKey: ['templates', id, printer],
    placeholderData: keepPreviousData,
    queryFn: async () => {
      const asked = { params: { path: { study_id: id }, query: { ...printer } } }
      return (await orCopy(`templates:${id}`, () => ask(api.GET('/api/studies/{study_id}/templates', asked)))) as Templates
    },
  })
export const useVersions = (id: string) =>
  useQuery<Version[]>({ queryKey: ['versions', id], queryFn: () => orCopy(`versions:${id}`, () => ask(api.GET('/api/studies/{study_id}/versions', at(id)))) })
/** Whether the class may come in, by which signs, and who is in. */
export const useJoining = (id: string, wanted = true) =>
  useQuery<Joining>({
    queryKey: ['joining', id],
    enabled: wanted,
    queryFn: () => ask(api.GET('/api/studies/{study_id}/joining', { params: { path: { study_id: id } } })),
  })
export const useReports = (id: string) =>
  useQuery<ReportLine[]>({ queryKey: ['reports', id], queryFn: () => orCopy(`reports:${id}`, () => ask(api.GET('/api/studies/{study_id}/reports', at(id)))) })
export const useReport = (id: string, report: string) =>
  useQuery<Report>({
    queryKey: ['report', id, report],
    queryFn: async () => {
      const found: unknown = await ask(api.GET('/api/studies/{study_id}/reports/{report_id}', { params: { path: { study_id: id, report_id: report } } }))
      return found as Report // the client widens tuples to arrays; the document says tuples
    },
  })
export const useThumbs = (id: string) => useQuery({ queryKey: ['thumbs', id], queryFn: () => ask(api.GET('/api/studies/{study_id}/thumbs', at(id))) })
export const useChanges = (id: string) =>
  useQuery<PlanChange[]>({ queryKey: ['changes', id], queryFn: () => ask(api.GET('/api/studies/{study_id}/changes', at(id))) })
export const useHistory = (study: string, trial: string) =>
  useQuery<TrialChange[]>({
    queryKey: ['history', study, trial],
    queryFn: () => ask(api.GET('/api/studies/{study_id}/trials/{trial_id}/history', { params: { path: { study_id: study, trial_id: trial } } })),
  })
/** What is kept beside a trial; nothing where nothing is. */
export const useSeen = (study: string, trial: string) => {
  const all = useQuery<string[]>({ queryKey: ['seen', study], queryFn: () => ask(api.GET('/api/studies/{study_id}/seen', at(study))) })
  return useQuery<Seen>({
    queryKey: ['seen', study, trial],
    enabled: all.data?.includes(trial) ?? false,
    queryFn: () => ask(api.GET('/api/studies/{study_id}/seen/{trial_id}', { params: { path: { study_id: study, trial_id: trial } } })),
  })
}
export const useTakenBack = (id: string) =>
  useQuery<Trial[]>({ queryKey: ['taken-back', id], queryFn: () => ask(api.GET('/api/studies/{study_id}/trials/taken-back', at(id))) })
