import 'fake-indexeddb/auto'
import { afterEach, describe, expect, test } from '@jest/globals'
import { z } from 'zod'
import { mixToMono } from '../core/audio/frames'
import type { AssetId, LayerId, SongId } from '../core/song/schema'
import { smallSong } from '../core/song/song.test-kit'
import { cachedAnalysis } from './analyses'
import { database } from './database'
import { beginRecording, endRecording, leftRecordings, placeRecording } from './recordings'
import { sweepLeftovers } from './songs'
import {
  AssetWriter,
  chunksOf,
  discardAsset,
  findMissingSound,
  loadForEars,
  MissingSoundError,
  makeAssetStore,
  readPeaks,
  requireAsset,
  rereadFacts,
} from './sounds'

const PLACEMENT = {
  captureContextFrame: 1,
  anchorContextFrame: 2,
  anchorSongFrame: 3,
  range: { startFrame: 0, endFrame: 9 },
  looping: false,
  roundTripFrames: 4,
}
const NOW = '2026-01-01T20:00:00.000Z'
const song = { ...smallSong(), id: 'one' as SongId }
const chunk = (seed: number, frames = 12_000) => [Float32Array.from({ length: frames }, (_, i) => ((i * seed) % 1_000) / 32_768)]

async function store(
  assetId: string,
  chunks: number,
  writer: Promise<AssetWriter> = AssetWriter.create(assetId as AssetId, 1),
  lastFrames = 5_000,
): Promise<void> {
  for (let i = 0; i < chunks; i++) await (await writer).push(chunk(i + 3, i === chunks - 1 ? lastFrames : 12_000))
  await (await writer).finish()
}

/** Which assets hold any sound. */
async function stored(): Promise<unknown[]> {
  return [...new Set((await Promise.all([database.packs, database.chunks].map(table => table.orderBy('assetId').uniqueKeys()))).flat())]
}

afterEach(() => Promise.all(database.tables.map(table => table.clear())))

describe('sounds', () => {
  test.each(['create', 'createForCapture'] as const)('come back chunk by chunk and whole, with their facts and peaks (%s)', async create => {
    await store('sung', 60, AssetWriter[create]('sung' as AssetId, 1))
    expect(await requireAsset('sung' as AssetId)).toMatchObject({ frames: 59 * 12_000 + 5_000, channels: 1, encoding: 'pcm16', clippedRuns: 0 })
    const pieces = []
    for await (const planes of chunksOf('sung' as AssetId)) pieces.push(planes[0]!.length)
    expect(pieces).toEqual([...new Array<number>(59).fill(12_000), 5_000])
    const whole = await loadForEars('sung' as AssetId)
    expect(whole.slice(24_000, 24_100)).toEqual(chunk(5)[0]!.slice(0, 100))
    expect((await readPeaks('sung' as AssetId))!.frames).toBe(whole.length)
    const assets = makeAssetStore()
    const some = await assets.readChunks('sung' as AssetId, [59, 2, 30, 31])
    expect(some.map(planes => planes[0]!.length)).toEqual([5_000, 12_000, 12_000, 12_000])
    expect(some.slice(1, 4)).toEqual([chunk(5), chunk(33), chunk(34)])
    // They are handed on to other threads, so no two may share memory.
    expect(new Set(some.map(planes => planes[0]!.buffer)).size).toBe(4)
    expect(some.every(planes => planes[0]!.buffer.byteLength === planes[0]!.byteLength)).toBe(true)
  })

  test('of a long sound part is stored before its end, and all of it comes back in order', async () => {
    const writer = await AssetWriter.create('long' as AssetId, 2)
    // A little more than what may wait in memory.
    for (let i = 0; i < 720; i++) await writer.push([0, 1].map(side => new Float32Array(12_000).fill((2 * i + side) / 2_000)))
    expect(await database.packs.count()).toBeGreaterThan(0)
    expect(await database.packs.count()).toBeLessThan(5)
    await writer.finish()
    const indices = [0, 23, 24, 400, 695, 696, 719]
    const read = await makeAssetStore().readChunks('long' as AssetId, indices)
    expect(read.map(planes => planes.map(plane => Math.round(2_000 * plane[0]!)))).toEqual(indices.map(i => [2 * i, 2 * i + 1]))
  })

  test('both sides of a stereo sound keep apart, in a last short chunk as well', async () => {
    const writer = await AssetWriter.create('wide' as AssetId, 2)
    const sides = (seed: number, frames?: number) => [...chunk(seed, frames), ...chunk(seed + 100, frames)]
    await writer.push(sides(1))
    await writer.push(sides(2, 700))
    await writer.finish()
    expect(await makeAssetStore().readChunks('wide' as AssetId, [0, 1])).toEqual([sides(1), sides(2, 700)])
    expect((await loadForEars('wide' as AssetId)).slice(12_000)).toEqual(mixToMono(sides(2, 700)))
    expect(await rereadFacts('wide' as AssetId)).toMatchObject({ frames: 12_700, channels: 2 })
  })

  test('where the sides cancel each other out, ears take one of them', async () => {
    const writer = await AssetWriter.create('apart' as AssetId, 2)
    const [left] = chunk(9)
    await writer.push([left!, left!.map(sample => -sample)])
    await writer.finish()
    expect(await loadForEars('apart' as AssetId)).toEqual(left)
  })

  test('what was stored of an unfinished one can be read again; the sweep removes what nothing refers to', async () => {
    const writer = await AssetWriter.createForCapture('cut' as AssetId, 1)
    await writer.push(chunk(7))
    await writer.push(chunk(8))
    await writer.flush()
    expect(await rereadFacts('cut' as AssetId)).toMatchObject({ frames: 24_000 })
    expect(await rereadFacts('never' as AssetId)).toBeNull()
    await beginRecording({ id: 'cut' as AssetId, songId: song.id, layerId: 'layer' as LayerId, startedAt: NOW, roundTripSource: 'simulated', placement: null })
    await placeRecording('cut' as AssetId, PLACEMENT)
    expect(await sweepLeftovers()).toBe(0)
    await beginRecording({
      id: 'unplaced' as AssetId,
      songId: song.id,
      layerId: 'layer' as LayerId,
      startedAt: NOW,
      roundTripSource: 'simulated',
      placement: null,
    })
    await endRecording('cut' as AssetId)
    expect(await sweepLeftovers()).toBe(1)
    expect(await database.recordings.count()).toBe(0)
    expect(await stored()).toEqual([])
  })

  test.each(['create', 'createForCapture'] as const)(
    'sound that is gone is named to the chunk, refused or silent as asked, and what follows it stays in its place (%s)',
    async create => {
      await store('holed', 60, AssetWriter[create]('holed' as AssetId, 1))
      const id = 'holed' as AssetId
      expect(await findMissingSound([id, id])).toEqual([])
      const [from, to] = create === 'create' ? [24, 47] : [5, 6]
      if (create === 'create') await database.packs.delete([id, 1])
      else
        await database.chunks.bulkDelete([
          [id, 5],
          [id, 6],
        ])
      expect(await findMissingSound([id, 'never' as AssetId])).toEqual([
        { assetId: id, startFrame: from * 12_000, endFrame: (to + 1) * 12_000 },
        { assetId: 'never', startFrame: 0, endFrame: Infinity },
      ])
      await expect(makeAssetStore().readChunks(id, [from])).rejects.toThrow(MissingSoundError)
      await expect(makeAssetStore().framesOf('never' as AssetId)).rejects.toThrow(MissingSoundError)
      const missing: number[] = []
      const [silent, there] = await makeAssetStore(stretch => missing.push(stretch.startFrame)).readChunks(id, [from, to + 1])
      expect(missing).toEqual([from * 12_000])
      expect(silent![0]!.every(sample => sample === 0)).toBe(true)
      expect(there).toEqual(chunk(to + 4))
      const whole = await loadForEars(id)
      expect(whole.length).toBe(59 * 12_000 + 5_000)
      expect(whole.subarray((to + 1) * 12_000, (to + 2) * 12_000)).toEqual(chunk(to + 4)[0])
    },
  )

  test('one that was not there when it was asked for is read once it is', async () => {
    const reader = makeAssetStore(() => {})
    expect(await reader.framesOf('late' as AssetId)).toBe(0)
    await store('late', 2)
    expect(await reader.framesOf('late' as AssetId)).toBe(12_000 + 5_000)
  })

  test('discarding one leaves the others', async () => {
    await Promise.all([store('a', 2), store('b', 3)])
    await discardAsset('a' as AssetId)
    expect(await stored()).toEqual(['b'])
    await expect(requireAsset('a' as AssetId)).rejects.toThrow(RangeError)
  })
})

test('recordings left behind say how much of them is stored and where they belong', async () => {
  const id = 'left' as AssetId
  await beginRecording({ id, songId: song.id, layerId: 'layer' as LayerId, startedAt: NOW, roundTripSource: 'estimated', placement: null })
  await placeRecording(id, PLACEMENT)
  const writer = await AssetWriter.createForCapture(id, 1)
  await writer.push(chunk(2))
  await writer.flush()
  expect(await leftRecordings(song.id)).toMatchObject([{ frames: 12_000, row: { id, placement: PLACEMENT } }])
  expect(await leftRecordings('other' as SongId)).toEqual([])
})

test('an analysis is made once a sound and version, and again if what is stored does not fit', async () => {
  await store('beat', 1)
  let made = 0
  const analyse = (version: number) => cachedAnalysis('beat' as AssetId, 'count', version, z.number(), () => Promise.resolve(++made))
  expect([await analyse(1), await analyse(1), await analyse(2)]).toEqual([1, 1, 2])
  await database.analyses.toCollection().modify({ value: 'spoiled' })
  expect(await analyse(1)).toBe(3)
})
