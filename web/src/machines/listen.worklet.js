/* The microphone, heard in blocks: the loudest point of each and when it began to be loud, by the sound's own clock. Nothing is kept.
   A sound is loud from a threshold on, but it began before it was: where it rose out of the quiet, at most REACH before. */
const RISE = 5
const REACH_S = 0.012
const QUIET_S = 0.4
const GAP_S = 0.003
class Listen extends AudioWorkletProcessor {
  process(inputs) {
    const channel = inputs[0]?.[0]
    if (!channel) return true
    let peak = 0
    let at = null
    const slow = 1 / (QUIET_S * sampleRate)
    for (let i = 0; i < channel.length; i += 1) {
      const v = Math.abs(channel[i])
      const t = currentTime + i / sampleRate
      peak = Math.max(peak, v)
      if (v > Math.max(RISE * this.quiet, 0.004)) {
        if (t - this.last > GAP_S) this.begun = t
        this.last = t
      } else this.quiet += (v - this.quiet) * slow
      if (at === null && this.threshold !== undefined && v >= this.threshold) at = Math.max(this.begun, t - REACH_S)
    }
    this.port.postMessage({ peak, at, now: currentTime })
    return true
  }
  constructor() {
    super()
    this.quiet = 0.002
    this.begun = 0
    this.last = -1
    this.port.onmessage = (e) => {
      this.threshold = e.data
    }
  }
}
registerProcessor('listen', Listen)
