import { type Crossing, Gate, type Line } from './gate'
import { type Grey, middle } from './grey'

/** What a line stands for: the start, or the end of a lane (1 to 6; 0 where one thing goes). */
export type Role = { start: true } | { start: false; lane: number }
export type Laid = { role: Role; line: Line }
/** What is wrong with the picture now; each has its sentence where it is shown. */
export type Trouble = 'light' | 'moved' | 'slow' | 'two' | 'shadow'
export type Passed = Crossing & { role: Role }
export type Told = { passed: Passed[]; troubles: Trouble[]; signals: number[]; learned: boolean; gain: number }

const GRID = 12
/** Light that goes up and down by more than this share flickers. */
const FLICKERS = 0.02
/** So much of the whole picture changes only when the tablet is moved, and so many steps of 256 are a change. */
const MOVED = 0.45
const CHANGED = 16
/** Pictures whose light and times are looked at together. */
const WINDOW = 40
/** So much longer than usual between two pictures is one that was left out. */
const LEFT_OUT = 1.7

/** A hand that shakes: the scene lies so many points aside, and fits there so much better than where it was. Looked for at its sharpest places. */
const ASIDE = 3
const FITS = 0.6
const SHARP = 400
const EVERY = 6
/** A change beyond so many steps is something that went through, not a shake; an average of less is no shake. */
const MOST = 40
const LEAST_OFF = 4

/** Whether a scene shakes: its sharpest places are remembered, and looked for a little aside. */
export class Shake {
  #at: number[] = []
  #was: number[] = []
  #wide = 0
  learn(grey: Grey): void {
    const { wide, high, values } = grey
    const found: { i: number; steep: number }[] = []
    for (let y = ASIDE + 1; y < high - ASIDE - 1; y += EVERY)
      for (let x = ASIDE + 1; x < wide - ASIDE - 1; x += EVERY) {
        const i = y * wide + x
        found.push({ i, steep: Math.abs((values[i + 1] ?? 0) - (values[i - 1] ?? 0)) + Math.abs((values[i + wide] ?? 0) - (values[i - wide] ?? 0)) })
      }
    found.sort((a, b) => b.steep - a.steep)
    this.#at = found.slice(0, SHARP).map((f) => f.i)
    this.#was = this.#at.map((i) => values[i] ?? 0)
    this.#wide = wide
  }
  aside(grey: Grey, gain: number): boolean {
    if (!this.#at.length || grey.wide !== this.#wide) return false
    const off = (shift: number) =>
      this.#at.reduce((sum, i, k) => sum + Math.min(MOST, Math.abs((grey.values[i + shift] ?? 0) / gain - (this.#was[k] ?? 0))), 0) / this.#at.length
    const here = off(0)
    if (here < LEAST_OFF) return false
    let best = here
    for (let dy = -ASIDE; dy <= ASIDE; dy += 1) for (let dx = -ASIDE; dx <= ASIDE; dx += 1) best = Math.min(best, off(dy * this.#wide + dx))
    return best < here * FITS
  }
}

/** The whole picture with its lines: light put right, a moved tablet noticed, and what passes each line. */
export class Watch {
  #gates: { role: Role; gate: Gate }[]
  #grid: Float32Array | null = null
  #gains: number[] = []
  #times: number[] = []
  #moved = 0
  #shake: Shake | null = null

  constructor(laid: readonly Laid[], thresholds: readonly number[] = []) {
    this.#gates = laid.map(({ role, line }, n) => ({ role, gate: new Gate(line, thresholds[n]) }))
  }
  threshold(n: number, value: number): void {
    const found = this.#gates[n]
    if (found) found.gate.threshold = value
  }
  /** Seconds between two pictures as they really come (the middle one of the last), 0 before there are some. */
  get gap(): number {
    return middle(this.#times.slice(1).map((t, i) => t - (this.#times[i] ?? 0)))
  }
  /** The empty scene is learned anew. */
  forget(): void {
    this.#grid = null
    this.#shake = null
    for (const { gate } of this.#gates) gate.forget()
  }

  take(t: number, grey: Grey): Told {
    const last = this.#times.at(-1)
    const slow = last !== undefined && this.#times.length > 8 && t - last > this.gap * LEFT_OUT
    this.#times = [...this.#times, t].slice(-WINDOW)
    for (const { gate } of this.#gates) gate.look(grey)
    const all = this.#gates.flatMap(({ gate }) => gate.gains())
    const gain = all.length ? Math.min(3, Math.max(0.3, middle(all))) : 1
    this.#gains = [...this.#gains, gain].slice(-WINDOW)
    if (!this.#shake) {
      this.#shake = new Shake()
      this.#shake.learn(grey)
    }
    const moved = this.#shaken(grey, gain) || this.#shake.aside(grey, gain)
    const passed: Passed[] = []
    for (const { role, gate } of this.#gates) {
      const crossing = gate.take(t, gain)
      if (crossing && !moved) passed.push({ ...crossing, role })
    }
    const troubles: Trouble[] = []
    if (moved) troubles.push('moved')
    if (this.#flickers()) troubles.push('light')
    if (slow) troubles.push('slow')
    if (passed.some((p) => p.parts > 1)) troubles.push('two')
    if (passed.some((p) => p.even)) troubles.push('shadow')
    return { passed, troubles, signals: this.#gates.map(({ gate }) => gate.seen?.signal ?? 0), learned: this.#gates.every(({ gate }) => gate.learned), gain }
  }

  #flickers(): boolean {
    if (this.#gains.length < WINDOW / 2) return false
    const steps = this.#gains.slice(1).map((g, i) => Math.abs(g - (this.#gains[i] ?? g)))
    return middle(steps) > FLICKERS
  }
  /** Whether most of the picture is another one. A scene that stays so is learned anew. */
  #shaken(grey: Grey, gain: number): boolean {
    const [w, h] = [GRID * 2, GRID]
    const now = new Float32Array(w * h)
    for (let y = 0; y < h; y += 1)
      for (let x = 0; x < w; x += 1)
        now[y * w + x] = grey.values[Math.floor(((y + 0.5) * grey.high) / h) * grey.wide + Math.floor(((x + 0.5) * grey.wide) / w)] ?? 0
    if (!this.#grid) {
      this.#grid = now
      return false
    }
    const off = now.reduce((sum, v, i) => sum + (Math.abs(v / gain - (this.#grid?.[i] ?? 0)) > CHANGED ? 1 : 0), 0) / now.length
    if (off < MOVED) {
      for (let i = 0; i < now.length; i += 1) this.#grid[i] = (this.#grid[i] ?? 0) * 0.9 + ((now[i] ?? 0) / gain) * 0.1
      this.#moved = 0
      return false
    }
    this.#moved += 1
    if (this.#moved >= 3) {
      this.forget()
      this.#moved = 0
    }
    return true
  }
}
