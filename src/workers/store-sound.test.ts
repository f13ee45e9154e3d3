import 'fake-indexeddb/auto'
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals'
import { SAMPLE_RATE_HZ, type Planar } from '../core/audio/frames'
import { StuckError } from '../core/files/import-sound'
import type { OpenSoundResult } from '../core/files/sound-stream'
import type { AssetId } from '../core/song/schema'
import { database } from '../storage/database'
import { AssetWriter, loadForEars, requireAsset } from '../storage/sounds'
import { openBeside } from './open-beside'
import { storeSound } from './store-sound'

// A worker of its own does not exist here: what it would send is made in its place.
jest.mock('./open-beside', () => ({ openBeside: jest.fn() }))

const ID = 'sung' as AssetId
const FILE = new Blob([])
const OPTIONS = { onProgress: () => {}, acceptCutShort: false }

/** A decoder that gives `seconds` seconds of a quiet ramp, one by one, and then ends or breaks. */
function decodes(seconds: number, { promised = seconds, end }: { promised?: number; end?: Error } = {}): void {
  const opened: OpenSoundResult = {
    ok: true,
    sound: {
      format: 'flac',
      sampleRateHz: SAMPLE_RATE_HZ,
      channels: 1,
      promisedFrames: promised * SAMPLE_RATE_HZ,
      async *chunks() {
        for (let i = 1; i <= seconds; i++)
          yield await Promise.resolve({
            planes: [Float32Array.from({ length: SAMPLE_RATE_HZ }, (_, frame) => frame / 2 ** 17)] as Planar,
            fraction: i / promised,
          })
        if (end) throw end
      },
    },
  }
  jest.mocked(openBeside).mockResolvedValue(opened)
}

/** Rows of any kind that hold a sound or tell of one. */
async function rows(): Promise<number> {
  const counts = await Promise.all([database.packs.count(), database.chunks.count(), database.assets.count()])
  return counts.reduce((sum, count) => sum + count, 0)
}

const whole = (planes: Planar) => planes
const quota = () => Object.assign(new Error('no room'), { name: 'QuotaExceededError' })

beforeEach(() => decodes(3))
afterEach(async () => {
  jest.restoreAllMocks()
  await Promise.all(database.tables.map(table => table.clear()))
})

describe('a file that is imported', () => {
  test('is stored sample by sample, and its shape is told while it arrives', async () => {
    let bins = 0
    const fractions: number[] = []
    const result = await storeSound(FILE, ID, whole, {
      ...OPTIONS,
      onProgress: (fraction, peaks) => (fractions.push(fraction), (bins += peaks?.peak.length ?? 0)),
    })
    expect(result).toMatchObject({ kind: 'imported', sound: { frames: 3 * SAMPLE_RATE_HZ, silencedSamples: 0 } })
    expect((await requireAsset(ID)).frames).toBe(3 * SAMPLE_RATE_HZ)
    const heard = await loadForEars(ID)
    expect([heard[0], heard[SAMPLE_RATE_HZ - 1], heard[2 * SAMPLE_RATE_HZ + 100]]).toEqual([0, (SAMPLE_RATE_HZ - 1) / 2 ** 17, 100 / 2 ** 17])
    expect(fractions.at(-1)).toBe(1)
    expect(bins).toBeGreaterThan(0)
  })

  test('may be kept in part: a beat that has two channels as one', async () => {
    await storeSound(FILE, ID, ([left]) => [left!.map(sample => sample / 2)], OPTIONS)
    expect((await loadForEars(ID))[1_000]).toBe(500 / 2 ** 17)
  })
})

describe('of a file that is not imported nothing stays', () => {
  test('refused: cut short, broken in the middle, or empty', async () => {
    decodes(3, { promised: 10 })
    expect(await storeSound(FILE, ID, whole, OPTIONS)).toMatchObject({ kind: 'refused', reason: 'cut-short', foundSeconds: 3, promisedSeconds: 10 })
    decodes(40, { end: new Error('bad frame') })
    expect(await storeSound(FILE, ID, whole, OPTIONS)).toMatchObject({ kind: 'refused', reason: 'not-sound' })
    decodes(0)
    expect(await storeSound(FILE, ID, whole, OPTIONS)).toMatchObject({ kind: 'refused', reason: 'empty' })
    expect(await rows()).toBe(0)
  })

  test('what is there of a file cut short is stored when that is wanted', async () => {
    decodes(3, { promised: 10 })
    expect(await storeSound(FILE, ID, whole, { ...OPTIONS, acceptCutShort: true })).toMatchObject({ kind: 'imported' })
    expect((await requireAsset(ID)).frames).toBe(3 * SAMPLE_RATE_HZ)
  })

  test('a decoder that is stuck is called that, not a bad file', async () => {
    decodes(40, { end: new StuckError() })
    expect(await storeSound(FILE, ID, whole, OPTIONS)).toEqual({ kind: 'stuck' })
    expect(await rows()).toBe(0)
  })

  test.each([1, 2])('a full disk at batch %i is called that, not a bad file', async batch => {
    decodes(90)
    const put = database.packs.put.bind(database.packs)
    let batches = 0
    jest.spyOn(database.packs, 'put').mockImplementation((...row) => (++batches < batch ? put(...row) : (Promise.reject(quota()) as never)))
    expect(await storeSound(FILE, ID, whole, OPTIONS)).toEqual({ kind: 'storage-full' })
    expect(batches).toBe(batch)
    expect(await rows()).toBe(0)
  })

  test('a fault of ours is told as one', async () => {
    jest.spyOn(AssetWriter, 'create').mockRejectedValue(new TypeError('ours'))
    await expect(storeSound(FILE, ID, whole, OPTIONS)).rejects.toThrow('ours')
    expect(await rows()).toBe(0)
  })
})
