import 'fake-indexeddb/auto'
import { expect, test } from '@jest/globals'
import type { AssetId, SongId } from '../core/song/schema'
import { smallSong, withTakes } from '../core/song/song.test-kit'
import { database } from './database'
import { keepDelivery, keptDeliveries } from './deliveries'
import { addSong } from './songs'
import { letDeliveredGo, storageUse } from './usage'

const facts = { contentHash: '0'.repeat(16), encoding: 'float32' as const, clippedRuns: 0 }
const now = '2026-11-30T00:00:00.000Z'

test('songs are counted by their sounds, an ill one not at all; what can go is counted apart, and goes', async () => {
  const song = withTakes({ ...smallSong(), id: 'one' as SongId }, 'Lead', 2, { assetId: 'take' as AssetId })
  await addSong(song, now)
  await addSong({ ...song, id: 'ill' as SongId, takes: 'none' as never }, now)
  await database.assets.bulkPut([
    { id: 'beat' as AssetId, frames: 1_000, channels: 2, ...facts },
    { id: 'take' as AssetId, frames: 500, channels: 1, ...facts },
    { id: 'print-x' as AssetId, frames: 250, channels: 1, ...facts },
  ])
  const file = new Blob(['sound'])
  await keepDelivery({ id: 'd', songId: 'one', version: 1, madeAt: now, position: 0, fileName: 'mix.wav', asked: null, report: null, bytes: 77, file })
  expect(await storageUse()).toEqual({ songs: new Map([['one', 4 * (2_000 + 500)]]), remade: 1_000, delivered: 77 })
  await letDeliveredGo()
  expect((await storageUse()).delivered).toBe(0)
  expect((await keptDeliveries('one' as SongId))[0]).toMatchObject({ fileName: 'mix.wav', file: null })
})
