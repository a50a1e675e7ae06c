import type { Me } from './api'
import { useMe } from './queries'
import { MAY } from './rights.gen'

/** As what somebody is here: an account is a teacher's, everybody else has a seat. */
export const roleOf = (me: Me | undefined): string => me?.seat?.role ?? 'teacher'

export type Act = 'look' | 'run' | 'run own' | 'build own' | 'time' | 'lead' | 'school'

/** Whether a role may do something at all, by the core's own table: what may not be done is not shown. */
export const may = (role: string, act: Act): boolean => (MAY[role] ?? []).includes(act)

export function useMay(): (act: Act) => boolean {
  const role = roleOf(useMe().data)
  return (act) => may(role, act)
}
