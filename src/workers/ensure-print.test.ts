import 'fake-indexeddb/auto'
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals'
import { treat } from '../core/beat/treatments'
import type { PrintJob } from '../core/prints/jobs'
import type { AssetId } from '../core/song/schema'
import { buzz } from '../core/voice/voice.test-kit'
import { database } from '../storage/database'
import { emptyPrints, notePrint, recentPrints } from '../storage/prints'
import { sweepLeftovers } from '../storage/songs'
import { AssetWriter, chunksOf, readStretch } from '../storage/sounds'
import { ensurePrint } from './ensure-print'
import { storeSound } from './stored.test-kit'

const { sound } = buzz(() => 150)
const DAY = 86_400_000

const jobOn = (assetId: string, amount = 0.5): PrintJob => ({
  kind: 'treated',
  assetId: assetId as AssetId,
  startFrame: 10_000,
  endFrame: 60_000,
  treatment: { kind: 'far away', amount, fadeFrames: 480 },
})
const madeId = async (job: PrintJob) => {
  const result = await ensurePrint(job)
  if (result.kind !== 'made') throw new Error(result.kind)
  return result.assetId
}

beforeEach(() => storeSound('beat', [sound]))
afterEach(async () => {
  jest.restoreAllMocks()
  for (const table of [database.assets, database.chunks, database.packs, database.peaks, database.prints]) await table.clear()
})

describe('a print', () => {
  test('is stored with its length and its sound, and found again instead of being made anew', async () => {
    const assetId = await madeId(jobOn('beat'))
    const [print] = await readStretch(assetId, 0, 50_000)
    expect(print).toEqual(treat([sound.slice(10_000, 60_000)], { kind: 'far away', amount: 0.5, fadeFrames: 480 })[0])
    expect((await database.assets.get(assetId))!.frames).toBe(50_000)
    const stored = jest.spyOn(AssetWriter, 'create')
    expect(await madeId(jobOn('beat'))).toBe(assetId)
    expect(stored).not.toHaveBeenCalled()
    expect(await madeId(jobOn('beat', 0.6))).not.toBe(assetId)
  })

  test('of the same sound under another id is the same print', async () => {
    await storeSound('again', [sound])
    await storeSound('other', [sound.map(sample => 0.5 * sample)])
    const assetId = await madeId(jobOn('beat'))
    expect(await madeId(jobOn('again'))).toBe(assetId)
    expect(await madeId(jobOn('other'))).not.toBe(assetId)
  })

  test('of a sound that is not stored, or not there where it is needed, is not made', async () => {
    expect(await ensurePrint(jobOn('nowhere'))).toEqual({ kind: 'missing-sound' })
    await database.packs.clear()
    expect(await ensurePrint(jobOn('beat'))).toEqual({ kind: 'missing-sound' })
    expect(await database.prints.count()).toBe(0)
  })

  test('that two ask for at once is made once, and both get it', async () => {
    const made = jest.spyOn(AssetWriter, 'create')
    const [one, other] = await Promise.all([madeId(jobOn('beat', 0.3)), madeId(jobOn('beat', 0.3))])
    expect(one).toBe(other)
    expect(made).toHaveBeenCalledTimes(1)
    const kept = await readStretch(one, 0, 50_000)
    expect(kept[0]).toHaveLength(50_000)
  })

  test('for which there is no room leaves nothing half-made, and all prints make room', async () => {
    const before = await madeId(jobOn('beat'))
    jest.spyOn(AssetWriter, 'create').mockRejectedValue(Object.assign(new Error('full'), { name: 'QuotaExceededError' }))
    expect(await ensurePrint(jobOn('beat', 0.9))).toEqual({ kind: 'storage-full' })
    expect(await database.assets.toCollection().primaryKeys()).toEqual(['beat'])
    jest.restoreAllMocks()
    expect(await madeId(jobOn('beat'))).toBe(before)
  })
})

describe('the table of prints', () => {
  test('emptied, it leaves the sounds that prints are made of, and the next asking makes them to the bit', async () => {
    const assetId = await madeId(jobOn('beat'))
    const before = await readStretch(assetId, 0, 50_000)
    await emptyPrints()
    expect(await database.assets.toCollection().primaryKeys()).toEqual(['beat'])
    expect(await madeId(jobOn('beat'))).toBe(assetId)
    expect(await readStretch(assetId, 0, 50_000)).toEqual(before)
  })

  test('a sweep leaves what was asked for in the last month and takes what was not', async () => {
    const [old, fresh] = [await madeId(jobOn('beat', 0.1)), await madeId(jobOn('beat', 0.2))]
    await notePrint(old, Date.now() - 31 * DAY)
    expect(await recentPrints()).toEqual([fresh])
    // No song names the beat either.
    expect(await sweepLeftovers()).toBe(2)
    expect(await database.assets.toCollection().primaryKeys()).toEqual([fresh])
    for await (const chunk of chunksOf(fresh)) expect(chunk).toHaveLength(1)
  })
})
