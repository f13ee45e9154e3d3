import 'fake-indexeddb/auto'
import '../../shared/two-cores.test-kit'
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals'
import { AS_MIXED } from '../../../core/deliver/delivery-shape'
import { beginHistory } from '../../../core/song/history'
import type { Part } from '../../../core/deliver/parts'
import type { SongId } from '../../../core/song/schema'
import { smallSong } from '../../../core/song/song.test-kit'
import { database } from '../../../storage/database'
import { runJob } from '../../../workers/run-job'
import { useLive } from '../../song/live'
import { closeSong, openHistory } from '../../song/song-store'
import { cancelDeliveries, exportSongFile, forget, makeAgain, nextVersion, renderParts, useDeliveries, type ReadyDelivery } from './deliveries'

// Rendering has its own tests: here a job answers as a test says.
jest.mock('../../../workers/run-job', () => ({ runJob: jest.fn() }))
jest.mock('../../../engine/engine', () => ({ Engine: class {} }))

type Answer = Awaited<ReturnType<typeof runJob>>
interface Asked {
  name: string
  options: { withoutMissing: boolean }
  onProgress: (fraction: number) => void
  answer: (answer: unknown) => void
  fail: (error: Error) => void
}

const WISH = { format: { kind: 'wav', bits: 24, sampleRateHz: 48_000 }, aim: null, shape: AS_MIXED, range: null, tags: {} } as const
const song = { ...smallSong(), id: 'one' as SongId, title: 'Slow Ferry' }
const made = { kind: 'done', value: { kind: 'made', file: new Blob(['sound']) } }
let asked: Asked[] = []

/** What is read of the stored comes a little later. */
const later = () => new Promise(resolve => setTimeout(resolve, 50))
const settle = () => new Promise(resolve => setTimeout(resolve, 0))
const rows = () => useDeliveries.getState().items.map(item => `${item.fileName}: ${item.kind}`)

beforeEach(async () => {
  asked = []
  jest.mocked(runJob as (...args: unknown[]) => Promise<Answer>).mockImplementation((name, options, carried) => {
    const { signal, onProgress } = carried as { signal: AbortSignal; onProgress: Asked['onProgress'] }
    return new Promise((resolve, reject) => {
      signal.addEventListener('abort', () => resolve({ kind: 'cancelled' }))
      asked.push({ name: name as string, options: options as Asked['options'], onProgress, answer: resolve as Asked['answer'], fail: reject })
    })
  })
  await database.deliveries.clear()
  openHistory(beginHistory(song), false)
})
afterEach(async () => {
  closeSong()
  await settle()
})

test('they are made two at once in the order they were asked for, one at once while a voice is recorded, and names never collide', async () => {
  for (let i = 0; i < 4; i++) exportSongFile()
  await settle()
  expect(asked).toHaveLength(2)
  useLive.setState({ recording: true })
  asked[1]!.answer(made)
  await settle()
  expect(rows()).toEqual(['Slow Ferry 2.zip: ready', 'Slow Ferry.zip: running'])
  asked[0]!.answer(made)
  await settle()
  expect(rows().slice(0, 1)).toEqual(['Slow Ferry 3.zip: running'])
  useLive.setState({ recording: false })
  await settle()
  expect(rows().slice(0, 2)).toEqual(['Slow Ferry 4.zip: running', 'Slow Ferry 3.zip: running'])
  for (const { answer } of asked.slice(2)) answer(made)
  await settle()
  const { pending, items } = useDeliveries.getState()
  expect(pending).toBe(0)
  expect(items.map(item => item.kind === 'ready' && item.bytes)).toEqual([5, 5, 5, 5])
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

test('cancelling ends those that run and those that wait; a later one is made', async () => {
  for (let i = 0; i < 3; i++) exportSongFile()
  await settle()
  cancelDeliveries()
  await settle()
  expect([rows(), asked.length, useDeliveries.getState().pending]).toEqual([[], 2, 0])
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

describe('what was delivered', () => {
  const deliver = async (parts: readonly Part[]) => {
    const before = asked.length
    renderParts(parts, WISH, ({ kind }) => `${kind}.wav`)
    for (const [i, part] of parts.entries()) {
      await settle()
      asked[before + i]!.answer({ kind: 'done', value: { kind: 'delivered', file: new Blob([part.kind]), report: { seconds: 1 }, renderSeconds: 0.1 } })
    }
    await settle()
    await settle()
  }
  const versions = () => useDeliveries.getState().items.map(item => (item.kind === 'ready' ? item.asked?.version : item.kind))

  test('is there again when the song is opened, with its file, its version and how it was asked for; another song has none of it', async () => {
    await deliver([{ kind: 'mix' }, { kind: 'beat' }])
    await deliver([{ kind: 'mix' }])
    expect(versions()).toEqual([2, 1, 1])
    closeSong()
    openHistory(beginHistory({ ...song, id: 'other' as SongId }), false)
    await later()
    expect(rows()).toEqual([])
    closeSong()
    openHistory(beginHistory(song), false)
    await later()
    expect(rows()).toEqual(['mix 2.wav: ready', 'beat.wav: ready', 'mix.wav: ready'])
    const [first] = useDeliveries.getState().items
    expect(first).toMatchObject({ kind: 'ready', bytes: 3, url: expect.stringMatching(/^blob:/), asked: { part: { kind: 'mix' }, wish: WISH, version: 2 } })
    expect(await (first as ReadyDelivery).file!.text()).toBe('mix')
  })

  test('is made again of the song as it is now, as it was asked for, as the next version', async () => {
    await deliver([{ kind: 'beat' }])
    const [item] = useDeliveries.getState().items
    if (item?.kind === 'ready') makeAgain(item.asked!)
    await settle()
    expect(asked.at(-1)!.options).toMatchObject({ part: { kind: 'beat' }, format: WISH.format })
    asked.at(-1)!.answer({ kind: 'done', value: { kind: 'delivered', file: new Blob(['x']), report: {}, renderSeconds: 1 } })
    await settle()
    expect(nextVersion(useDeliveries.getState())).toBe(1 + (versions()[0] as number))
  })

  test('made again twice before either is done is two versions', async () => {
    await deliver([{ kind: 'beat' }])
    const [item] = useDeliveries.getState().items
    const before = asked.length
    for (let i = 0; i < 2; i++) if (item?.kind === 'ready') makeAgain(item.asked!)
    await settle()
    for (const { answer } of asked.slice(before)) answer({ kind: 'done', value: { kind: 'delivered', file: new Blob(['x']), report: {}, renderSeconds: 1 } })
    await settle()
    await settle()
    expect(versions()).toEqual([3, 2, 1])
    expect(nextVersion(useDeliveries.getState())).toBe(4)
  })

  test('is forgotten for good where that is asked for', async () => {
    await deliver([{ kind: 'mix' }, { kind: 'beat' }])
    await later()
    forget(useDeliveries.getState().items.find(({ fileName }) => fileName === 'mix.wav')!)
    expect(rows()).toEqual(['beat.wav: ready'])
    closeSong()
    openHistory(beginHistory(song), false)
    await later()
    expect(rows()).toEqual(['beat.wav: ready'])
  })
})
