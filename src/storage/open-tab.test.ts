import 'fake-indexeddb/auto'
import { expect, jest, test } from '@jest/globals'
import type { AssetId } from '../core/song/schema'
import { database } from './database'
import type * as OpenTab from './open-tab'
import { AssetWriter } from './sounds'

/** The browser's locks, small: exclusive and shared, one name, many tabs. */
class StandInLocks {
  private held: { shared: boolean }[] = []
  private waiting: (() => void)[] = []

  async request(_name: string, options: { ifAvailable?: boolean; mode?: 'shared' }, act: (lock: object | null) => unknown): Promise<unknown> {
    const shared = options.mode === 'shared'
    const isFree = () => this.held.length === 0 || (shared && this.held.every(lock => lock.shared))
    if (options.ifAvailable && !isFree()) return act(null)
    while (!isFree()) await new Promise<void>(resolve => this.waiting.push(resolve))
    const lock = { shared }
    this.held.push(lock)
    try {
      return await act(lock)
    } finally {
      this.held = this.held.filter(other => other !== lock)
      for (const wake of this.waiting.splice(0)) wake()
    }
  }
}

/** A tab is a module of its own over the same storage and locks. */
async function openTab(locks: StandInLocks): Promise<() => Promise<void>> {
  jest.resetModules()
  Object.defineProperty(globalThis, 'navigator', { value: { locks }, configurable: true })
  const { whenOpen } = (await import('./open-tab')) as typeof OpenTab
  return whenOpen
}

async function storeSound(id: string): Promise<void> {
  const writer = await AssetWriter.create(id as AssetId, 1)
  await writer.push([new Float32Array(12_000)])
  await writer.finish()
}

test('what an earlier run left behind goes; what is stored once a tab counts as open stays, in it and beside others that open', async () => {
  const locks = new StandInLocks()
  await storeSound('left')
  const first = await openTab(locks)
  await first()
  expect(await database.packs.count()).toBe(0)
  await storeSound('arriving')
  const second = await openTab(locks)
  await Promise.all([second(), first()])
  expect(await database.packs.count()).toBe(1)
})
