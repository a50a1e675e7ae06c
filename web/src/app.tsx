import { type ComponentType, lazy, Suspense, useEffect, useLayoutEffect, useState, useSyncExternalStore } from 'react'
import { Navigate, Route, Routes, useLocation, useNavigationType } from 'react-router'
import type { Me } from './data/api'
import { anew, client, trialKept, useMe } from './data/queries'
import { signedOut } from './data/signedOut'
import { queue } from './machines/saveQueue'
import { Skeleton, Trouble } from './parts/parts'

/** Each stage is a piece of its own, so that a phone in the hall loads the run and not the whole program. */
const piece = <K extends string>(load: () => Promise<Record<K, ComponentType>>, name: K) => lazy(async () => ({ default: (await load())[name] }))
const Ask = piece(() => import('./stages/ask/Ask'), 'Ask')
const Build = piece(() => import('./stages/build/Build'), 'Build')
const Desk = piece(() => import('./stages/run/Desk'), 'Desk')
const FeltPhone = piece(() => import('./stages/run/seeing/FeltPhone'), 'FeltPhone')
const TimerPhone = piece(() => import('./stages/run/TimerPhone'), 'TimerPhone')
const Decide = piece(() => import('./stages/work-out/Decide'), 'Decide')
const Home = piece(() => import('./stages/Home'), 'Home')
const ClassIn = piece(() => import('./stages/plan/ClassIn'), 'ClassIn')
const Join = piece(() => import('./stages/Join'), 'Join')
const Lesson = piece(() => import('./stages/plan/Lesson'), 'Lesson')
const Materials = piece(() => import('./stages/plan/Materials'), 'Materials')
const Plan = piece(() => import('./stages/plan/Plan'), 'Plan')
const Marking = piece(() => import('./stages/show/Marking'), 'Marking')
const Practice = piece(() => import('./stages/Practice'), 'Practice')
const Trust = piece(() => import('./stages/Trust'), 'Trust')
const Help = piece(() => import('./stages/Help'), 'Help')
const ReadIn = piece(() => import('./stages/ReadIn'), 'ReadIn')
const Run = piece(() => import('./stages/run/Run'), 'Run')
const Say = piece(() => import('./stages/Say'), 'Say')
const SheetPage = piece(() => import('./stages/run/SheetPage'), 'SheetPage')
const Trials = piece(() => import('./stages/run/Trials'), 'Trials')
const Show = piece(() => import('./stages/show/Show'), 'Show')
const Seated = lazy(async () => ({ default: (await import('./stages/Seated')).Seated }))
const SignIn = lazy(async () => ({ default: (await import('./stages/SignIn')).SignIn }))
const SignInOver = lazy(async () => ({ default: (await import('./parts/SignInOver')).SignInOver }))
const Sums = piece(() => import('./stages/work-out/Sums'), 'Sums')
const PrintAll = piece(() => import('./stages/plan/PrintAll'), 'PrintAll')
const Templates = piece(() => import('./stages/plan/Templates'), 'Templates')
const Together = piece(() => import('./stages/work-out/Together'), 'Together')
const Usual = piece(() => import('./stages/Usual'), 'Usual')
const Wall = piece(() => import('./stages/show/Wall'), 'Wall')
const WorkOut = piece(() => import('./stages/work-out/WorkOut'), 'WorkOut')

/** What follows from a write and is read a moment later: a trial's answer is in the list at once (`trialKept`), its verdict is asked for
 *  first, and the rest waits until that has been asked, so that a run of quick trials is not a run of five questions each. */
const REST_MS = 250
const REST = ['trials', 'study', 'beside', 'history', 'taken-back', 'versions']
const due = new Map<string, ReturnType<typeof setTimeout>>()
queue.onSaved = (w, answer) => {
  void anew(['analysis', w.studyId]) // on its way before the page is drawn again
  if (answer) trialKept(w.studyId, answer)
  const rest = () => {
    due.delete(w.studyId)
    for (const name of REST) void anew([name, w.studyId])
    void anew(['home'])
  }
  clearTimeout(due.get(w.studyId))
  if (answer) due.set(w.studyId, setTimeout(rest, REST_MS))
  else rest()
}
queue.onOpened = (studyId, study) => client.setQueryData(['study', studyId], study)

export function App() {
  const me = useMe()
  const { pathname } = useLocation()
  const went = useNavigationType()
  useLayoutEffect(() => {
    // a page that is opened begins at its top; going back, the browser knows where one was
    if (pathname && went !== 'POP') window.scrollTo(0, 0)
  }, [pathname, went])
  // a sign-in that ends while a page is open leaves the page as it is, with the sign-in over it
  const [last, setLast] = useState<Me>()
  if (me.data?.signed_in && me.data !== last) setLast(me.data)
  const shown = me.data?.signed_in ? me.data : (last ?? me.data)
  const ended = shown?.signed_in === true && me.data?.signed_in === false
  useEffect(() => {
    if (ended) signedOut.set(true)
  }, [ended])
  const who = shown?.signed_in ? (shown.id ?? '') : ''
  // an earlier version of the program knew whose trials wait here by names
  const formerly = shown?.signed_in ? `${shown.workspace}/${shown.shown_name}` : ''
  const { shown_name: by = '', school } = shown ?? {}
  const known = shown !== undefined
  useEffect(() => {
    if (formerly) void queue.open({ who: who || formerly, by, school: school ?? '' }, formerly)
    else if (known) void queue.open({ who: '', by: '', school: '' }) // what waits here is told to whoever comes
  }, [who, formerly, by, school, known])
  const out = useSyncExternalStore(signedOut.subscribe, signedOut.get)
  if (pathname.startsWith('/practice'))
    return (
      <Suspense fallback={<Skeleton />}>
        <Routes>
          <Route path="/practice/:kind?" element={<Practice />} />
        </Routes>
      </Suspense>
    )
  if (pathname === '/trust' || pathname.startsWith('/help'))
    return (
      <Suspense fallback={<Skeleton />}>
        <Routes>
          <Route path="/trust" element={<Trust />} />
          <Route path="/help/:page?" element={<Help />} />
        </Routes>
      </Suspense>
    )
  if (pathname === '/join')
    return (
      <Suspense fallback={<Skeleton />}>
        <Join />
      </Suspense>
    )
  if (me.isPending) return <Skeleton />
  if (!shown) return <Trouble error={me.error} again={() => void me.refetch()} />
  if (!shown.signed_in)
    return (
      <Suspense fallback={<Skeleton />}>
        <SignIn me={shown} />
      </Suspense>
    )
  if (shown.seat)
    return (
      <Suspense fallback={<Skeleton lines={5} />}>
        <Seated me={shown} seat={shown.seat} ended={out} pages={{ Run, Build, Wall, Desk, TimerPhone, FeltPhone, Say }} />
      </Suspense>
    )
  return (
    <Suspense fallback={<Skeleton lines={5} />}>
      {out ? <SignInOver was={shown} /> : null}
      <Routes>
        <Route path="/" element={<Home />} />
        <Route path="/marking" element={<Marking />} />
        <Route path="/together" element={<Together />} />
        <Route path="/usual" element={<Usual />} />
        <Route path="/read-in" element={<ReadIn />} />
        <Route path="/study/:id/ask" element={<Ask />} />
        <Route path="/study/:id/plan" element={<Plan />} />
        <Route path="/study/:id/plan/lesson" element={<Lesson />} />
        <Route path="/study/:id/plan/materials" element={<Materials />} />
        <Route path="/study/:id/plan/templates" element={<Templates />} />
        <Route path="/study/:id/plan/print" element={<PrintAll />} />
        <Route path="/study/:id/plan/class" element={<ClassIn />} />
        <Route path="/study/:id/build" element={<Build />} />
        <Route path="/study/:id/run" element={<Run />} />
        <Route path="/study/:id/desk" element={<Desk />} />
        <Route path="/study/:id/time" element={<TimerPhone />} />
        <Route path="/study/:id/felt" element={<FeltPhone />} />
        <Route path="/study/:id/sheet" element={<SheetPage />} />
        <Route path="/study/:id/trials" element={<Trials />} />
        <Route path="/study/:id/show/:report?" element={<Show />} />
        <Route path="/study/:id/decide" element={<Decide />} />
        <Route path="/study/:id/sums" element={<Sums />} />
        <Route path="/study/:id/wall" element={<Wall />} />
        <Route path="/study/:id/work-out" element={<WorkOut />} />
        <Route path="*" element={<Navigate to="/" replace />} />
      </Routes>
    </Suspense>
  )
}
