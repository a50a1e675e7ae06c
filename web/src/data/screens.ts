import { useQuery } from '@tanstack/react-query'
import { useEffect, useReducer } from 'react'
import { v4 as uuid } from 'uuid'
import { turnKey } from '../machines/turns'
import { api, ask } from './api'
import type { components } from './schema'
import { client } from './queries'

export type Screen = components['schemas']['ScreenOut']
export type Press = components['schemas']['PressOut']
type Screens = components['schemas']['ScreensOut']
export const screensKey = (study: string) => ['screens', study]
const at = (study: string) => ({ params: { path: { study_id: study } } })

/** This tab, as it is known to the others: it stays through a reload. */
export const screenId = (() => {
  let id = uuid()
  try {
    id = sessionStorage.getItem('screen') ?? id
    sessionStorage.setItem('screen', id)
  } catch {
    return id // a tab that keeps nothing is a new one after a reload
  }
  return id
})()

/** Every screen of the lesson as it is now, and what further phones pressed. */
export const useScreens = (study: string, wanted = true) =>
  useQuery<Screens>({
    queryKey: screensKey(study),
    enabled: wanted,
    staleTime: 60_000,
    queryFn: () => ask(api.GET('/api/studies/{study_id}/screens', at(study))),
  })

const EMPTY: Screens = { screens: [], presses: [], granted: true }
const change = (study: string, made: (was: Screens) => Screens) => client.setQueryData<Screens>(screensKey(study), (was) => made(was ?? EMPTY))

/** What is told of a screen, null when its page was left. */
export const heardScreen = (study: string, id: string, screen: Screen | null) =>
  change(study, (was) => ({ ...was, screens: [...was.screens.filter((s) => s.id !== id), ...(screen ? [screen] : [])] }))
export const heardPress = (study: string, press: Press) =>
  change(study, (was) => ({ ...was, presses: [...was.presses.filter((p) => p.fall !== press.fall || p.screen_id !== press.screen_id), press] }))

/** A screen that is away for longer calls nothing any more (bendro/actions/screens.py). */
const AWAY_MS = 20_000
export const isAway = (s: Screen, now = Date.now()): boolean => s.away_at !== null && now - Date.parse(s.away_at) > AWAY_MS

/** Turns that other screens call, by their key: which screen. A group comes before a teacher who only looks. */
export function calledElsewhere(screens: readonly Screen[], role: string, me = screenId): Map<string, Screen> {
  const found = new Map<string, Screen>()
  for (const s of screens) {
    if (s.id === me || isAway(s)) continue
    const looks = (s.role === 'teacher' || s.role === 'colleague') && s.doing === 'calling' && Object.keys(s.half).length === 0
    if (role === 'group' && looks) continue
    for (const t of s.turns) found.set(turnKey(t), s)
  }
  return found
}

/** The turns that other screens call, as it is now: what a screen that went away called is free a moment later. */
export function useElsewhere(study: string, role: string): Map<string, Screen> {
  const screens = useScreens(study).data?.screens
  const [, again] = useReducer((n: number) => n + 1, 0)
  useEffect(() => {
    const timers = (screens ?? []).flatMap((s) => {
      const goes = s.turns.length && s.away_at ? Date.parse(s.away_at) + AWAY_MS - Date.now() : 0
      return goes > 0 ? [setTimeout(again, goes + 50)] : []
    })
    return () => timers.forEach(clearTimeout)
  }, [screens])
  return calledElsewhere(screens ?? [], role)
}
