import 'fake-indexeddb/auto'
import { afterEach, beforeEach, expect, jest, test } from '@jest/globals'
import { beginHistory } from '../../../core/song/history'
import type { SongId } from '../../../core/song/schema'
import { smallSong } from '../../../core/song/song.test-kit'
import { runJob } from '../../../workers/run-job'
import { closeSong, openHistory } from '../../song/song-store'
import { cancelDeliveries, exportSongFile, renderParts, useDeliveries } from './deliveries'

// Rendering has its own tests: here a job answers as a test says.
jest.mock('../../../workers/run-job', () => ({ runJob: jest.fn() }))

type Answer = Awaited<ReturnType<typeof runJob>>
interface Asked {
  name: string
  options: { withoutMissing: boolean }
  onProgress: (fraction: number) => void
  answer: (answer: unknown) => void
  fail: (error: Error) => void
}

const WISH = { format: { kind: 'wav', bits: 24, sampleRateHz: 48_000 }, aim: null, range: null, tags: {} } as const
const song = { ...smallSong(), id: 'one' as SongId, title: 'Slow Ferry' }
const made = { kind: 'done', value: { kind: 'made', file: new Blob(['sound']) } }
let asked: Asked[] = []

const settle = () => new Promise(resolve => setTimeout(resolve, 0))
const rows = () => useDeliveries.getState().items.map(item => `${item.fileName}: ${item.kind}`)

beforeEach(() => {
  asked = []
  jest.mocked(runJob as (...args: unknown[]) => Promise<Answer>).mockImplementation((name, options, carried) => {
    const { signal, onProgress } = carried as { signal: AbortSignal; onProgress: Asked['onProgress'] }
    return new Promise((resolve, reject) => {
      signal.addEventListener('abort', () => resolve({ kind: 'cancelled' }))
      asked.push({ name: name as string, options: options as Asked['options'], onProgress, answer: resolve as Asked['answer'], fail: reject })
    })
  })
  openHistory(beginHistory(song), false)
})
afterEach(async () => {
  closeSong()
  await settle()
})

test('they are made one after the other, and names never collide', async () => {
  exportSongFile()
  exportSongFile()
  await settle()
  expect(asked).toHaveLength(1)
  asked[0]!.answer(made)
  await settle()
  expect(rows()).toEqual(['Slow Ferry 2.zip: running', 'Slow Ferry.zip: ready'])
  asked[1]!.answer(made)
  await settle()
  expect(useDeliveries.getState()).toMatchObject({
    pending: 0,
    items: [
      { kind: 'ready', bytes: 5 },
      { kind: 'ready', bytes: 5 },
    ],
  })
})

test('one that fails, however it fails, is a row that says so, and the next is made', async () => {
  renderParts([{ kind: 'mix' }, { kind: 'vocals' }, { kind: 'beat' }], WISH, ({ kind }) => `${kind}.wav`)
  await settle()
  asked[0]!.fail(new TypeError('ours'))
  await settle()
  asked[1]!.answer({ kind: 'failed', reason: 'worker-died', detail: 'out of memory' })
  await settle()
  asked[2]!.answer({ kind: 'done', value: { kind: 'nothing-sounds' } })
  await settle()
  expect(useDeliveries.getState().items.map(item => (item.kind === 'failed' ? item.detail : item.kind))).toEqual(['empty', 'out of memory', 'TypeError: ours'])
  expect(useDeliveries.getState().pending).toBe(0)
})

test('missing sound is named, and going on without it takes the place of that row', async () => {
  exportSongFile()
  await settle()
  const missing = [{ assetId: 'gone', startFrame: 0, endFrame: 48_000 }]
  asked[0]!.answer({ kind: 'done', value: { kind: 'missing-sound', missing } })
  await settle()
  const [item] = useDeliveries.getState().items
  expect(item).toMatchObject({ kind: 'missing', missing })
  if (item?.kind === 'missing') item.goOn()
  await settle()
  expect(asked.map(({ options }) => options.withoutMissing)).toEqual([false, true])
  expect(rows()).toEqual(['Slow Ferry.zip: running'])
})

test('cancelling ends the one that runs and those that wait; a later one is made', async () => {
  exportSongFile()
  exportSongFile()
  await settle()
  cancelDeliveries()
  await settle()
  expect([rows(), asked.length, useDeliveries.getState().pending]).toEqual([[], 1, 0])
  // What the ended worker had still sent brings no row back.
  asked[0]!.onProgress(0.5)
  expect(rows()).toEqual([])
  exportSongFile()
  await settle()
  expect(rows()).toEqual(['Slow Ferry.zip: running'])
})

test('of a song that was closed nothing shows in the next one, not even late progress', async () => {
  exportSongFile()
  await settle()
  openHistory(beginHistory({ ...song, id: 'two' as SongId }), false)
  asked[0]!.onProgress(0.5)
  expect(rows()).toEqual([])
  await settle()
  expect(rows()).toEqual([])
  expect(useDeliveries.getState().pending).toBe(0)
})
