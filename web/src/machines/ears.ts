import workletUrl from './listen.worklet.js?url&no-inline'

/** A microphone that listens: nothing of what it hears is kept. */
export type Ears = { context: AudioContext; stop: () => void; port: MessagePort }
/** The loudest of a piece of sound (0 to 1), and when something loud began in it, by the sound's own clock in s. */
export type Block = { peak: number; at: number | null }

export const canHear = (): boolean => 'mediaDevices' in navigator && 'AudioWorkletNode' in globalThis
export const NO_EARS = 'The microphone needs this page on this machine or on https. Time it by the thumb or by frames here.'

/** Open the microphone. Throws an Error whose message can be shown. */
export async function hear(onBlock: (block: Block) => void): Promise<Ears> {
  let stream: MediaStream
  try {
    stream = await navigator.mediaDevices.getUserMedia({ audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false } })
  } catch (why) {
    const named =
      why instanceof DOMException && why.name === 'NotAllowedError' ? 'The browser does not let this page listen' : 'The microphone could not be opened'
    throw new Error(`${named}. Allow it in the browser, or time it by the thumb. (${why instanceof Error ? why.message : String(why)})`)
  }
  const context = new AudioContext()
  await context.audioWorklet.addModule(workletUrl)
  const node = new AudioWorkletNode(context, 'listen', { numberOfOutputs: 0 })
  context.createMediaStreamSource(stream).connect(node)
  node.port.onmessage = (e: MessageEvent<Block>) => onBlock(e.data)
  const stop = () => {
    for (const t of stream.getTracks()) t.stop()
    void context.close()
  }
  return { context, stop, port: node.port }
}

/** By how many s the sound's clock is ahead of the page's: both are known at one moment. */
export function aheadOfPage(context: AudioContext): number {
  const both = context.getOutputTimestamp()
  return both.performanceTime ? (both.contextTime ?? 0) - both.performanceTime / 1000 : context.currentTime - performance.now() / 1000
}
