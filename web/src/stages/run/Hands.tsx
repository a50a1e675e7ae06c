import { useEffect } from 'react'
import type { Turn } from '../../data/api'
import { typed } from '../../data/keep'
import type { Place } from '../../data/measures'
import type { Screen } from '../../data/screens'
import { turnKey } from '../../machines/turns'
import type { Hands as Hands_, OfPhones } from './phonesGave'
import { type OfLane, useClass } from './useClass'
import { entryKey } from './useEntry'

type Props = Omit<OfLane, 'onHanded'> & {
  onHands: (hands: Hands_) => void
  /** Of one trial: where the times of further phones go, and which are there. */
  places?: readonly Place[]
  phones?: OfPhones
  onPhones?: (phones: OfPhones) => void
  onText?: (name: string, text: string) => void
  onLane?: (lane: number) => void
  onTurn?: (turn: Turn) => void
}

/** While it stands beside a lane, the class is told what the lane does, and the lane what the class does. Nothing of it is seen. */
export function Hands({ onHands, places = [], phones = {}, onPhones, onText, onLane, onTurn, ...lane }: Props) {
  const { study, half } = lane
  /** A turn that another device hands over comes with what is half typed there. */
  const onHanded = (mine: Screen) => {
    const [first] = mine.turns
    const over = first && study.turns.find((t) => turnKey(t) === turnKey(first))
    if (!over || !mine.handed.startsWith('from ')) return
    for (const [name, text] of Object.entries(mine.half)) typed.set(entryKey(study.id, turnKey(over), name), text)
    onLane?.(mine.lane)
    onTurn?.(over)
  }
  const { screens, timers, times, worst } = useClass({ ...lane, onHanded })
  const ids = timers.map((t) => t.id).join()
  // biome-ignore lint/correctness/useExhaustiveDependencies: who times is known by the ids
  useEffect(() => onHands({ screens, timers, times, worst }), [onHands, screens, ids, times, worst])
  useEffect(() => {
    // each further phone's time goes to a free place of the timers, in their order
    const first = study.draft.measures[0]?.id
    for (const t of times) {
      if (t.text === null || Object.values(phones).some((p) => p.label === t.label)) continue
      const place = places.find((p) => p.measure.id === first && p.payload === 1 && p.timer > 0 && !(half[p.name] ?? '').trim())
      if (!place) continue
      onText?.(place.name, t.text)
      onPhones?.({ ...phones, [place.name]: { text: t.text, label: t.label, clock_s: t.clock_s, heard: t.heard } })
      return
    }
  }, [times, phones, places, half, onText, onPhones, study.draft])
  return null
}
