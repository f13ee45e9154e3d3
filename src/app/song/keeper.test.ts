import 'fake-indexeddb/auto'
import { afterEach, beforeEach, expect, jest, test } from '@jest/globals'
import { beginHistory, record, undo, type History } from '../../core/song/history'
import { setTitle } from '../../core/song/title'
import type { SongId } from '../../core/song/schema'
import { smallSong } from '../../core/song/song.test-kit'
import { database } from '../../storage/database'
import { addSong, loadSong } from '../../storage/songs'
import { distrustStored, keep, keptSoFar, type Keeping } from './keeper'

const song = { ...smallSong(), id: 'one' as SongId }
let told: Keeping['kind'][] = []
const tell = (keeping: Keeping) => void told.push(keeping.kind)

const retitle = (history: History, title: string) => record(history, `call it ${title}`, setTitle(history.song, title))
async function storedHistory(): Promise<History> {
  const loaded = await loadSong(song.id)
  if (loaded.kind !== 'current') throw new Error(loaded.kind)
  return loaded.history
}

/** Makes every edit of one session: each is kept as soon as it is made. */
function edits(from: History, ...titles: string[]): History {
  let history = from
  for (const title of titles) {
    const next = retitle(history, title)
    keep(history, next, tell)
    history = next
  }
  return history
}

const untilKept = async () => {
  while (told.at(-1) !== 'kept') await new Promise(resolve => setTimeout(resolve, 20))
}

beforeEach(async () => {
  told = []
  await addSong(song, '2026-01-01T20:00:00.000Z')
})
afterEach(async () => {
  jest.restoreAllMocks()
  await Promise.all(database.tables.map(table => table.clear()))
})

test('many edits in a row are all stored, in few writes', async () => {
  const put = jest.spyOn(database.history, 'bulkPut')
  const now = edits(beginHistory(song), ...Array.from({ length: 50 }, (_, i) => `Title ${i}`))
  await keptSoFar()
  expect(await storedHistory()).toEqual(now)
  expect(told.at(-1)).toBe('kept')
  expect(put.mock.calls.length).toBeLessThanOrEqual(2)
})

test('one edit of a long history writes one row', async () => {
  const before = edits(beginHistory(song), ...Array.from({ length: 300 }, (_, i) => `Title ${i}`))
  await keptSoFar()
  const put = jest.spyOn(database.history, 'bulkPut')
  edits(before, 'The last')
  await keptSoFar()
  expect(put.mock.calls.map(([rows]) => rows.length)).toEqual([1])
})

test('a write that fails is told, and tried again with all that memory holds', async () => {
  const fail = jest.spyOn(database.history, 'bulkPut').mockRejectedValueOnce(new Error('disk asleep'))
  const first = edits(beginHistory(song), 'Before')
  await keptSoFar()
  expect(told).toEqual(['keeping', 'failed'])
  // The song goes on while storage does not.
  const later = edits(first, 'Meanwhile', 'And then')
  const back = undo(later)
  keep(later, back, tell)
  await untilKept()
  expect(fail.mock.calls.length).toBeGreaterThan(1)
  expect(await storedHistory()).toEqual(back)
})

test('what was stepped back to on opening replaces every step that was stored', async () => {
  edits(beginHistory(song), 'Bad', 'Worse')
  await keptSoFar()
  const fresh = beginHistory(song)
  distrustStored(song.id)
  const now = edits(fresh, 'Good')
  await keptSoFar()
  expect(await storedHistory()).toEqual(now)
  expect(await database.history.count()).toBe(1)
})
