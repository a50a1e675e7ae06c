import { useEffect, useRef, useState } from 'react'
import type { HowTaken } from '../../data/api'

/** What an instrument gave, as the lane hears it. */
export type Got = {
  state: 'reading' | 'started' | 'told' | 'doubled' | 'kept'
  says: string
  text: string
  unit: string
  stamps: number[]
  taken: HowTaken
  source: string
  /** Of a heat; 0 where one thing falls. */
  lane: number
}

/** The lane listens while `on`: readings go to the field, faults are told. It comes back by itself after the network was gone. */
export function useInstruments(studyId: string, on: boolean, onGot: (got: Got) => void): 'off' | 'listening' | 'away' {
  const [state, setState] = useState<'off' | 'listening' | 'away'>('off')
  const heard = useRef(onGot)
  heard.current = onGot
  useEffect(() => {
    if (!on) return setState('off')
    let socket: WebSocket | undefined
    let timer: ReturnType<typeof setTimeout> | undefined
    let over = false
    const open = () => {
      socket = new WebSocket(`${location.origin.replace(/^http/, 'ws')}/api/studies/${studyId}/lane`)
      socket.onopen = () => setState('listening')
      socket.onmessage = (e: MessageEvent<string>) => heard.current(JSON.parse(e.data) as Got)
      socket.onclose = () => {
        if (over) return
        setState('away')
        timer = setTimeout(open, 2_000)
      }
    }
    open()
    return () => {
      over = true
      clearTimeout(timer)
      socket?.close()
    }
  }, [studyId, on])
  return state
}
