import { useEffect, useRef, useState } from 'react'
import type { HowTaken } from '../../data/api'
import { signedOut } from '../../data/signedOut'

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
  /** What is asked before this reading is kept; "" for nothing. */
  doubt: string
  /** Something did not arrive: it stays told until somebody has looked. */
  lost: boolean
  /** What else it tells of the same trial: name, quantity, and the text in each unit. */
  more: [string, string, [string, string][]][]
}

export type Listening = 'off' | 'listening' | 'away' | 'ended'
/** As the server closes a connection whose sign-in has ended (bendro/api/instruments.py). */
const SIGNED_OUT = 4401

/** The lane listens while `on`: readings go to the field, faults are told. It comes back by itself after the network was gone. */
export function useInstruments(studyId: string, on: boolean, onGot: (got: Got) => void): Listening {
  const [state, setState] = useState<Listening>('off')
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
      socket.onclose = (e) => {
        if (over) return
        if (e.code === SIGNED_OUT) signedOut.set(true)
        setState(e.code === SIGNED_OUT ? 'ended' : 'away')
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
