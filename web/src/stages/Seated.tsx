import { type ComponentType, Suspense } from 'react'
import { Navigate, Route, Routes } from 'react-router'
import type { Me } from '../data/api'
import { type Act, may } from '../data/may'
import { Skeleton } from '../parts/parts'

/** What a seat of a lesson may open, and nothing else. */
export function Seated({
  me,
  seat,
  ended,
  pages: { Run, Build, Wall, Desk, TimerPhone, FeltPhone, Say },
}: {
  me: Me
  seat: NonNullable<Me['seat']>
  ended: boolean
  pages: Record<'Run' | 'Build' | 'Wall' | 'Desk' | 'TimerPhone' | 'FeltPhone' | 'Say', ComponentType>
}) {
  const at = `/study/${seat.study_id}`
  const can = (act: Act) => may(seat.role, act)
  if (ended)
    return (
      <main className="mx-auto grid min-h-dvh max-w-[30rem] content-center gap-5 p-6">
        <h1 className="m-0 text-[3rem] leading-none">The lesson is over</h1>
        <p className="m-0 text-[1.15rem]">
          {me.shown_name} is no longer in. What was kept is with the teacher; what waits here is sent when you come in again.
        </p>
        <a className="btn btn-act" href="/join">
          Come in again
        </a>
      </main>
    )
  return (
    <Suspense fallback={<Skeleton lines={5} />}>
      <Routes>
        {can('run own') ? <Route path="/study/:id/run" element={<Run />} /> : null}
        {can('run') ? <Route path="/study/:id/desk" element={<Desk />} /> : null}
        {can('time') ? <Route path="/study/:id/time" element={<TimerPhone />} /> : null}
        {can('time') ? <Route path="/study/:id/felt" element={<FeltPhone />} /> : null}
        {can('build own') ? <Route path="/study/:id/build" element={<Build />} /> : null}
        {can('build own') ? <Route path="/study/:id/say" element={<Say />} /> : null}
        <Route path="/study/:id/wall" element={<Wall />} />
        <Route path="*" element={<Navigate to={`${at}/${can('run own') ? 'run' : can('time') ? 'time' : 'wall'}`} replace />} />
      </Routes>
    </Suspense>
  )
}
