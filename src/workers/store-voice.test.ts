import 'fake-indexeddb/auto'
import { afterEach, expect, jest, test } from '@jest/globals'
import type { Planar } from '../core/audio/frames'
import { sine } from '../core/audio/signals.test-kit'
import type { AssetId } from '../core/song/schema'
import { database } from '../storage/database'
import { readStretch } from '../storage/sounds'
import { openBeside } from './open-beside'
import { storeVoice } from './store-voice'

jest.mock('./open-beside', () => ({ openBeside: jest.fn() }))

const ID = 'brought' as AssetId
const SECOND = 48_000
const voice = sine({ hz: 220, frames: SECOND, amplitude: 0.5 })

/** A file of one second, as often as it is opened. */
function file(planes: Planar): void {
  jest.mocked(openBeside).mockImplementation(() =>
    Promise.resolve({
      ok: true,
      sound: {
        format: 'wav',
        sampleRateHz: SECOND,
        channels: planes.length,
        promisedFrames: SECOND,
        async *chunks() {
          yield await Promise.resolve({ planes: planes.map(plane => plane.slice()), fraction: 1 })
        },
      },
    }),
  )
}
const stored = async () => (await readStretch(ID, 0, SECOND))[0]!
const bring = () => storeVoice(new Blob([]), ID, () => {})

afterEach(() => Promise.all(database.tables.map(table => table.clear())).then(() => {}))

test('two sides become their mean', async () => {
  file([voice, new Float32Array(SECOND)])
  expect(await bring()).toMatchObject({ kind: 'imported', sidesCancel: false })
  expect((await stored())[60]).toBeCloseTo(voice[60]! / 2, 6)
})

test('sides that cancel each other out are not added: the left one is taken, and that is said', async () => {
  file([voice, voice.map(x => -0.97 * x)])
  expect(await bring()).toMatchObject({ kind: 'imported', sidesCancel: true, sound: { frames: SECOND } })
  expect([...(await stored()).subarray(0, 500)]).toEqual([...voice.subarray(0, 500)])
})

test('a voice on one side only, or turned round in part, is none of these', async () => {
  file([voice, voice.map(x => -0.3 * x)])
  expect(await bring()).toMatchObject({ kind: 'imported', sidesCancel: false })
})

test.each([0, 5e-5])('a file that is silent from end to end (peak %f) is refused, and nothing of it stays', async level => {
  file([voice.map(x => 2 * level * x)])
  expect(await bring()).toEqual({ kind: 'refused', reason: 'silent', format: 'wav' })
  expect(await database.assets.count()).toBe(0)
  expect((await database.packs.count()) + (await database.chunks.count())).toBe(0)
})
