import type { Screen } from '../../data/screens'

/** What a further phone gave for a place of the trial in hand. */
export type Gave = { text: string; label: string; clock_s: number; heard?: boolean }
export type OfPhones = Readonly<Record<string, Gave>>
/** A further phone's time of the fall in hand; null where it did not see it. heard: by its microphone; lane: at which it stands, 0 for any. */
export type PhoneTime = { label: string; screen: string; text: string | null; clock_s: number; seconds: number | null; heard: boolean; lane: number }

/** What the lane knows of the rest of the class. worst: how far the clocks of its timers may be apart, in s. */
export type Hands = { screens: readonly Screen[]; timers: readonly Screen[]; times: readonly PhoneTime[]; worst: number | null }
export const NO_HANDS: Hands = { screens: [], timers: [], times: [], worst: null }
