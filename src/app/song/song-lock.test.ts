import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals'
import { holdSongLock, useSongLock, whileClosed } from './song-lock'

/** Locks as browsers have them: one holder a name, others wait in line, a wait can be given up. */
class StandInLocks {
  private readonly held = new Map<string, Promise<unknown>>()

  async request(name: string, { signal }: { signal?: AbortSignal }, act: () => Promise<unknown>): Promise<unknown> {
    for (let holder = this.held.get(name); holder; holder = this.held.get(name)) {
      const givenUp = new Promise<never>((_, reject) => {
        signal?.addEventListener('abort', () => reject(signal.reason as Error), { once: true })
        if (signal?.aborted) reject(signal.reason as Error)
      })
      await Promise.race([holder.catch(() => {}), givenUp])
    }
    const acting = act().finally(() => this.held.delete(name))
    this.held.set(name, acting)
    return acting
  }
}

const state = () => useSongLock.getState().state
const settle = async () => {
  for (let i = 0; i < 20; i++) await Promise.resolve()
}

beforeEach(() => {
  jest.useFakeTimers()
  // Fake timers do not reach it by themselves.
  jest.spyOn(AbortSignal, 'timeout').mockImplementation(milliseconds => {
    const control = new AbortController()
    setTimeout(() => control.abort(new DOMException('too late', 'TimeoutError')), milliseconds)
    return control.signal
  })
  Object.defineProperty(globalThis, 'navigator', { configurable: true, value: { locks: new StandInLocks() } })
})
afterEach(() => {
  jest.restoreAllMocks()
  jest.useRealTimers()
})

describe('one tab at a time', () => {
  test('works on a song; it is mine at once where no other tab has it', async () => {
    const release = holdSongLock('one')
    await settle()
    expect(state()).toBe('mine')
    release()
  })

  test('a song that another tab has is said to be elsewhere after a moment, and taken over when that tab lets go', async () => {
    const other = holdSongLock('one')
    await settle()
    const release = holdSongLock('one')
    await settle()
    expect(state()).toBe('asking')
    await jest.advanceTimersByTimeAsync(1_300)
    expect(state()).toBe('elsewhere')
    other()
    await settle()
    expect(state()).toBe('mine')
    release()
  })

  test('a tab that is just closing is waited for without a word', async () => {
    const closing = holdSongLock('one')
    await settle()
    const release = holdSongLock('one')
    await jest.advanceTimersByTimeAsync(500)
    closing()
    await jest.advanceTimersByTimeAsync(2_000)
    expect(state()).toBe('mine')
    release()
  })

  test('left while it waited, a song is not taken afterwards: the next tab gets it', async () => {
    const holder = holdSongLock('one')
    await settle()
    holdSongLock('one')()
    holder()
    await settle()
    const next = holdSongLock('one')
    await settle()
    expect(state()).toBe('mine')
    next()
  })

  test('two songs are no concern of each other', async () => {
    const [one, two] = [holdSongLock('one'), holdSongLock('two')]
    await settle()
    expect(state()).toBe('mine')
    one()
    two()
  })
})

describe('what is done to a stored song', () => {
  test('is done where no tab has it open', async () => {
    const act = jest.fn(() => Promise.resolve())
    expect(await whileClosed('one', act)).toBe(true)
    expect(act).toHaveBeenCalledTimes(1)
  })

  test('is not done, and said so, where one has', async () => {
    const release = holdSongLock('one')
    await settle()
    const act = jest.fn(() => Promise.resolve())
    const done = whileClosed('one', act)
    await jest.advanceTimersByTimeAsync(1_300)
    expect(await done).toBe(false)
    expect(act).not.toHaveBeenCalled()
    release()
  })

  test('an error of what was done comes out, and the song is free again', async () => {
    await expect(whileClosed('one', () => Promise.reject(new Error('disk')))).rejects.toThrow('disk')
    expect(await whileClosed('one', () => Promise.resolve())).toBe(true)
  })
})
