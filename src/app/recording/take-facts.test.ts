import { afterEach, beforeEach, expect, jest, test } from '@jest/globals'
import { beginHistory } from '../../core/song/history'
import type { SongId, TakeId } from '../../core/song/schema'
import { smallSong, withTakes } from '../../core/song/song.test-kit'
import { runJob } from '../../workers/run-job'
import { queryClient } from '../query-client'
import { closeSong, currentSong, openHistory, undoStep, useSongStore } from '../song/song-store'
import { listenToTakes, remarkText, useLeaks } from './take-facts'

jest.mock('../song/keeper', () => ({ keep: () => {} }))
jest.mock('../../workers/run-job', () => ({ runJob: jest.fn() }))
jest.mock('../../storage/analyses', () => ({ readVoiceAnalysis: () => Promise.resolve(null) }))

const song = withTakes(smallSong(), 'Lead', 4)
const ids = song.takes.map(take => take.id)
const LEVEL = { voiceDbfs: -18, peakDbfs: -6, noiseDbfs: -70, tiltDecibels: 20 }
const job = jest.mocked(runJob) as unknown as jest.Mock<(name: string, options: Record<string, unknown>) => Promise<unknown>>
const asked = (name: string) => job.mock.calls.filter(([called]) => called === name).map(([, options]) => options)
/** How far the beat that is heard in a take lies from where it should; null where none is heard. */
let leak: { offFrames: number; confidence: number } | null

beforeEach(() => {
  leak = null
  openHistory(beginHistory(song), false)
  useLeaks.setState({ witnesses: new Map() })
  job.mockImplementation((name, options) => {
    if (name === 'readLevels')
      return Promise.resolve({ kind: 'done', value: (options.stretches as { takeId: TakeId }[]).map(({ takeId }) => ({ takeId, level: LEVEL })) })
    return Promise.resolve({ kind: 'done', value: name === 'readLeak' ? leak : null })
  })
})
afterEach(() => {
  jest.clearAllMocks()
  queryClient.clear()
  closeSong()
})

test('the level of each take is noted with it, in its own frames; it is no step of undo', async () => {
  await listenToTakes(ids.slice(0, 2))
  expect(currentSong().takes.map(take => take.level)).toEqual([LEVEL, LEVEL, null, null])
  expect(asked('readLevels')[0]!.stretches).toEqual([{ takeId: ids[0], startFrame: 0, endFrame: 30 * 48_000 }])
  expect(useSongStore.getState().history!.done).toEqual([])
  undoStep()
  expect(currentSong().takes[0]!.level).toEqual(LEVEL)
})

test('passes of one loop are listened to once', async () => {
  const { assetId } = song.takes[0]!
  openHistory(beginHistory({ ...song, takes: song.takes.map(take => ({ ...take, assetId })) }), false)
  await listenToTakes(ids)
  expect(asked('readLevels')).toHaveLength(1)
  expect(currentSong().takes.every(take => take.level !== null)).toBe(true)
})

test('the beat that leaked into a take says what its round trip was; passes of a loop need only a few', async () => {
  leak = { offFrames: -240.4, confidence: 0.9 }
  const takes = song.takes.map(take => ({ ...take, roundTripFrames: 960, roundTripSource: 'measured' as const }))
  openHistory(beginHistory({ ...song, takes }), false)
  await listenToTakes(ids)
  expect([...useLeaks.getState().witnesses.keys()]).toEqual(ids.slice(1))
  expect(useLeaks.getState().witnesses.get(ids[3]!)).toEqual({ roundTripFrames: 720, confidence: 0.9 })
})

test('a take that was placed by matching, or needs no place, is not asked for a leak', async () => {
  const takes = song.takes.map((take, i) => ({ ...take, roundTripSource: i === 0 ? ('matched' as const) : ('none' as const) }))
  openHistory(beginHistory({ ...song, takes }), false)
  await listenToTakes(ids)
  expect(asked('readLeak')).toEqual([])
})

test.each([
  ['left', () => closeSong()],
  ['left for another', () => openHistory(beginHistory({ ...smallSong(), id: 'other' as SongId }), false)],
])('a song that was %s meanwhile is told nothing, and nothing fails', async (_, leave) => {
  const listening = listenToTakes(ids)
  leave()
  const after = useSongStore.getState().history
  await listening
  expect(useSongStore.getState().history).toBe(after)
  expect(asked('readLeak')).toEqual([])
})

test('asked when the song is closed already, nothing is listened to and nothing fails', async () => {
  closeSong()
  await listenToTakes(ids)
  expect(job).not.toHaveBeenCalled()
})

test('listening that fails leaves the take as it was', async () => {
  job.mockResolvedValue({ kind: 'failed', reason: 'worker-died', detail: '' })
  await listenToTakes(ids.slice(0, 1))
  expect(currentSong().takes[0]!.level).toBeNull()
})

test.each([
  [{ kind: 'clipped', amount: 1 }, 'clipped once'],
  [{ kind: 'clipped', amount: 3 }, 'clipped in 3 places'],
  [{ kind: 'late', amount: 61.4 }, '61 ms late'],
  [{ kind: 'flat', amount: 38.7 }, '39 cents flat'],
  [{ kind: 'noisy', amount: 12.2 }, 'only 12 dB above the room'],
] as const)('%p reads “%s”', (remark, text) => expect(remarkText(remark)).toBe(text))
