/* The microphone, heard in blocks: the loudest point of each and when it was, by the sound's own clock. Nothing is kept. */
class Listen extends AudioWorkletProcessor {
  process(inputs) {
    const channel = inputs[0]?.[0]
    if (channel) {
      let peak = 0
      for (let i = 0; i < channel.length; i += 1) peak = Math.max(peak, Math.abs(channel[i]))
      let over = -1
      if (this.threshold !== undefined) over = channel.findIndex((v) => Math.abs(v) >= this.threshold)
      this.port.postMessage({ peak, at: over < 0 ? null : currentTime + over / sampleRate, now: currentTime })
    }
    return true
  }
  constructor() {
    super()
    this.port.onmessage = (e) => {
      this.threshold = e.data
    }
  }
}
registerProcessor('listen', Listen)
