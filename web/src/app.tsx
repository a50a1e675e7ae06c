import { useEffect } from 'react'
import { Navigate, Route, Routes } from 'react-router'
import { client, trialKept, useMe } from './data/queries'
import { queue } from './machines/saveQueue'
import { Skeleton, Trouble } from './parts/parts'
import { Home } from './stages/Home'
import { ReadIn } from './stages/ReadIn'
import { SignIn } from './stages/SignIn'
import { Ask } from './stages/ask/Ask'
import { Build } from './stages/build/Build'
import { Lesson } from './stages/plan/Lesson'
import { Materials } from './stages/plan/Materials'
import { Plan } from './stages/plan/Plan'
import { Run } from './stages/run/Run'
import { Trials } from './stages/run/Trials'
import { WorkOut } from './stages/work-out/WorkOut'

queue.onSaved = (w, answer) => {
  if (answer) trialKept(w.studyId, answer)
  for (const name of ['trials', 'study', 'analysis', 'history', 'taken-back']) void client.invalidateQueries({ queryKey: [name, w.studyId] })
  void client.invalidateQueries({ queryKey: ['home'] })
}
queue.onOpened = (studyId, study) => client.setQueryData(['study', studyId], study)

export function App() {
  const me = useMe()
  const who = me.data?.signed_in ? (me.data.id ?? '') : ''
  // an earlier version of the program knew whose trials wait here by names
  const formerly = me.data?.signed_in ? `${me.data.workspace}/${me.data.shown_name}` : ''
  useEffect(() => {
    if (formerly) void queue.open(who || formerly, formerly)
  }, [who, formerly])
  if (me.isPending) return <Skeleton />
  if (me.isError) return <Trouble error={me.error} again={() => void me.refetch()} />
  if (!me.data.signed_in) return <SignIn me={me.data} />
  return (
    <Routes>
      <Route path="/" element={<Home />} />
      <Route path="/read-in" element={<ReadIn />} />
      <Route path="/study/:id/ask" element={<Ask />} />
      <Route path="/study/:id/plan" element={<Plan />} />
      <Route path="/study/:id/plan/lesson" element={<Lesson />} />
      <Route path="/study/:id/plan/materials" element={<Materials />} />
      <Route path="/study/:id/build" element={<Build />} />
      <Route path="/study/:id/run" element={<Run />} />
      <Route path="/study/:id/trials" element={<Trials />} />
      <Route path="/study/:id/work-out" element={<WorkOut />} />
      <Route path="*" element={<Navigate to="/" replace />} />
    </Routes>
  )
}
