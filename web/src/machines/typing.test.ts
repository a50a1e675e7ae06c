import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { type Answer, ONE_STEP_MS, PAUSE_MS, type Port, Typing } from './typing'

type Sheet = { question: string; repeats: number }
const SHEET: Sheet = { question: 'How far?', repeats: 3 }

/** A server that the test plays: every sending waits until it is answered. */
function server(kept = '') {
  const sendings: { version: number; draft: Sheet; answer: (a: Answer<Sheet>) => void }[] = []
  const browser = { text: kept }
  const port: Port<Sheet> = {
    send: (version, draft) => new Promise((answer) => sendings.push({ version, draft, answer })),
    keep: (text) => {
      browser.text = text
    },
    kept: () => browser.text,
  }
  return { port, sendings, browser, last: () => sendings.at(-1) as (typeof sendings)[number] }
}

const settled = () => vi.advanceTimersByTimeAsync(0)

describe('what is typed', () => {
  beforeEach(() => {
    vi.useFakeTimers()
  })
  afterEach(() => {
    vi.useRealTimers()
  })

  it('is kept in the browser at every key and sent once after a pause', async () => {
    const { port, sendings, browser, last } = server()
    const typing = new Typing(SHEET, 1, port)
    typing.change({ question: 'How f' })
    typing.change({ question: 'How fast?' })
    expect(JSON.parse(browser.text).question).toBe('How fast?')
    expect(typing.snapshot.saving.state).toBe('saving')
    expect(sendings).toHaveLength(0)
    await vi.advanceTimersByTimeAsync(PAUSE_MS)
    expect(sendings).toHaveLength(1)
    last().answer({ kind: 'stored', version: 2 })
    await settled()
    expect(typing.snapshot.saving.state).toBe('saved')
    expect(typing.version).toBe(2)
    expect(browser.text).toBe('')
  })

  it('is never called saved while something of it is not stored', async () => {
    const { port, sendings, last } = server()
    const typing = new Typing(SHEET, 1, port)
    typing.change({ repeats: 4 })
    await vi.advanceTimersByTimeAsync(PAUSE_MS)
    typing.change({ repeats: 5 })
    last().answer({ kind: 'stored', version: 2 })
    await settled()
    expect(typing.snapshot.saving.state).toBe('saving')
    expect(sendings).toHaveLength(2)
    expect(last()).toMatchObject({ version: 2, draft: { repeats: 5 } })
    last().answer({ kind: 'stored', version: 3 })
    await settled()
    expect(typing.snapshot.saving.state).toBe('saved')
  })

  it('is sent once however often it is asked to be sent meanwhile', async () => {
    const { port, sendings, last } = server()
    const typing = new Typing(SHEET, 1, port)
    typing.change({ repeats: 4 })
    const all = [typing.send(), typing.send(), typing.send()]
    await settled()
    expect(sendings).toHaveLength(1)
    typing.change({ repeats: 6 })
    last().answer({ kind: 'stored', version: 2 })
    await settled()
    expect(sendings).toHaveLength(2)
    last().answer({ kind: 'stored', version: 3 })
    await Promise.all(all)
    expect(sendings).toHaveLength(2)
    expect(typing.dirty).toBe(false)
  })

  it('that is taken away again needs no sending', async () => {
    const { port, sendings } = server()
    const typing = new Typing(SHEET, 1, port)
    typing.change({ repeats: 4 })
    typing.change({ repeats: 3 })
    await vi.advanceTimersByTimeAsync(PAUSE_MS)
    expect(sendings).toHaveLength(0)
    expect(typing.snapshot.saving.state).toBe('saved')
  })

  it('waits for the network and goes out by itself', async () => {
    const { port, sendings, browser, last } = server()
    const typing = new Typing(SHEET, 1, port)
    typing.change({ repeats: 4 })
    await vi.advanceTimersByTimeAsync(PAUSE_MS)
    last().answer({ kind: 'away', says: 'The server cannot be reached just now.', where: null })
    await settled()
    expect(typing.snapshot.saving).toMatchObject({ state: 'away' })
    expect(JSON.parse(browser.text).repeats).toBe(4)
    await vi.advanceTimersByTimeAsync(4_000)
    expect(sendings).toHaveLength(2)
    last().answer({ kind: 'stored', version: 2 })
    await settled()
    expect(typing.snapshot.saving.state).toBe('saved')
  })

  it('outlives a reload and is then sent', async () => {
    const { port, sendings } = server(JSON.stringify({ question: 'Half typ', repeats: 3 }))
    const typing = new Typing(SHEET, 7, port)
    expect(typing.snapshot.draft.question).toBe('Half typ')
    await vi.advanceTimersByTimeAsync(0)
    expect(sendings[0]).toMatchObject({ version: 7, draft: { question: 'Half typ' } })
  })

  it('stays when it is refused, with the sentence at its place, until it is mended or given up', async () => {
    const { port, last } = server()
    const typing = new Typing(SHEET, 1, port)
    typing.change({ repeats: 999 })
    await vi.advanceTimersByTimeAsync(PAUSE_MS)
    last().answer({ kind: 'refused', says: '999 repeats cannot be run.', where: 'repeats' })
    await settled()
    expect(typing.snapshot).toMatchObject({ draft: { repeats: 999 }, saving: { state: 'refused', where: 'repeats' } })
    typing.giveUp()
    expect(typing.snapshot).toMatchObject({ draft: SHEET, saving: { state: 'saved' } })
  })

  it('clashes in sight of both, and mine goes out on top of theirs', async () => {
    const { port, last } = server()
    const typing = new Typing(SHEET, 1, port)
    typing.change({ repeats: 4 })
    await vi.advanceTimersByTimeAsync(PAUSE_MS)
    last().answer({ kind: 'clash', says: 'Someone else changed this.', theirs: { draft: { question: 'Theirs?', repeats: 9 }, version: 5 } })
    await settled()
    expect(typing.snapshot.saving.theirs?.draft.repeats).toBe(9)
    typing.settle('mine')
    await settled()
    expect(last()).toMatchObject({ version: 5, draft: { question: 'How far?', repeats: 4 } })
  })

  it('gives way to theirs when that is chosen', async () => {
    const { port, browser, last } = server()
    const typing = new Typing(SHEET, 1, port)
    typing.change({ repeats: 4 })
    await vi.advanceTimersByTimeAsync(PAUSE_MS)
    last().answer({ kind: 'clash', says: 'Someone else changed this.', theirs: { draft: { question: 'Theirs?', repeats: 9 }, version: 5 } })
    await settled()
    typing.settle('theirs')
    expect(typing.snapshot.draft).toEqual({ question: 'Theirs?', repeats: 9 })
    expect(typing.version).toBe(5)
    expect(browser.text).toBe('')
  })

  it('takes over what is newer on the server only while nothing is typed here', async () => {
    const { port } = server()
    const typing = new Typing(SHEET, 1, port)
    typing.meet({ question: 'Newer?', repeats: 3 }, 2)
    expect(typing.snapshot.draft.question).toBe('Newer?')
    typing.meet({ question: 'Older?', repeats: 3 }, 1)
    expect(typing.snapshot.draft.question).toBe('Newer?')
    typing.change({ question: 'Mine' })
    typing.meet({ question: 'Newest?', repeats: 3 }, 3)
    expect(typing.snapshot.draft.question).toBe('Mine')
  })

  it('tells everyone who listens, and no longer those who left', () => {
    const { port } = server()
    const typing = new Typing(SHEET, 1, port)
    const heard = vi.fn()
    const leave = typing.subscribe(heard)
    typing.change({ repeats: 4 })
    expect(heard).toHaveBeenCalledTimes(1)
    leave()
    typing.change({ repeats: 5 })
    expect(heard).toHaveBeenCalledTimes(1)
  })

  it('goes on after a sending that broke', async () => {
    const { port, sendings, last } = server()
    const real = port.send
    let broken = true
    port.send = (v, d) => (broken ? Promise.reject(new Error('broken')) : real(v, d))
    const typing = new Typing(SHEET, 1, port)
    typing.change({ repeats: 4 })
    await expect(typing.send()).rejects.toThrow('broken')
    broken = false
    typing.change({ repeats: 5 })
    await vi.advanceTimersByTimeAsync(PAUSE_MS)
    expect(sendings).toHaveLength(1)
    last().answer({ kind: 'stored', version: 2 })
    await settled()
    expect(typing.dirty).toBe(false)
  })

  it('is taken back bout by bout, and what is taken back is sent', async () => {
    const { port, sendings, last } = server()
    const typing = new Typing(SHEET, 1, port)
    await vi.advanceTimersByTimeAsync(ONE_STEP_MS + 1)
    expect(typing.canUndo).toBe(false)
    typing.change({ question: 'How f' })
    typing.change({ question: 'How fast?' })
    await vi.advanceTimersByTimeAsync(ONE_STEP_MS + 1)
    last().answer({ kind: 'stored', version: 2 })
    await settled()
    typing.change({ repeats: 9 })
    typing.undo()
    expect(typing.snapshot.draft).toEqual({ question: 'How fast?', repeats: 3 })
    typing.undo()
    expect(typing.snapshot.draft).toEqual(SHEET)
    expect(typing.canUndo).toBe(false)
    typing.undo()
    await vi.advanceTimersByTimeAsync(PAUSE_MS)
    expect(last()).toMatchObject({ version: 2, draft: SHEET })
    expect(sendings).toHaveLength(2)
  })
})
