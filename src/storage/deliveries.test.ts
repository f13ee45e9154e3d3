import 'fake-indexeddb/auto'
import { expect, test } from '@jest/globals'
import type { SongId } from '../core/song/schema'
import { database } from './database'
import { forgetDelivery, keepDelivery, keptDeliveries, type KeptDelivery } from './deliveries'

const song = 'one' as SongId
const made = (number: number, more: Partial<KeptDelivery> = {}): KeptDelivery => ({
  id: `${number}`,
  songId: song,
  version: number,
  madeAt: new Date(Date.UTC(2026, 10, 30, 0, number)).toISOString(),
  position: 0,
  fileName: `mix ${number}.wav`,
  asked: null,
  report: null,
  bytes: 10,
  file: new Blob(['sound']),
  ...more,
})

test('the newest sixty of a song are kept, and files only while there is room; the newest always has its own', async () => {
  for (let number = 1; number <= 62; number++) await keepDelivery(made(number))
  const kept = await keptDeliveries(song)
  expect(kept.map(({ version }) => version)).toEqual(Array.from({ length: 60 }, (_, i) => 62 - i))
  await keepDelivery(made(63, { bytes: 590e6 }))
  await keepDelivery(made(64, { bytes: 900e6 }))
  const files = (await keptDeliveries(song)).map(({ file }) => file !== null)
  expect(files.slice(0, 3)).toEqual([true, false, false])
  expect(await keptDeliveries('two' as SongId)).toEqual([])
})

test('one that cannot be read is left out, and a forgotten one is gone', async () => {
  await database.deliveries.clear()
  await keepDelivery(made(1))
  await keepDelivery(made(2))
  await database.deliveries.put({ id: 'odd', songId: song, madeAt: '2027', bytes: 1, file: null })
  expect((await keptDeliveries(song)).map(({ id }) => id)).toEqual(['2', '1'])
  await forgetDelivery('2')
  expect((await keptDeliveries(song)).map(({ id }) => id)).toEqual(['1'])
})
