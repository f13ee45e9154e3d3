import { expect, test } from '@jest/globals'
import { smallSong, withTakes } from '../song/song.test-kit'
import type { Song, Take } from '../song/schema'
import { outOfRange, voiceRange } from './voice-range'

const song = withTakes(smallSong(), 'Lead', 1)
/** Half a second each, one after the other. */
const sung = (midis: readonly number[], frames = 24_000): Song => ({
  ...song,
  takes: song.takes.map((take): Take => ({
    ...take,
    heard: {
      ...{ frames: 2_000_000, phrases: [], breaths: [], esses: [], pops: [], clicks: [], noises: [], finals: [], clipped: [] },
      notes: midis.map((midi, i) => [i * frames, (i + 1) * frames, i * frames, (i + 1) * frames, 100 * midi, 0, 0]),
    },
  })),
})

test('a range is what was sung, from the lowest to the highest; ornaments and too little singing are none', () => {
  const midis = [55, 57, 60, 62, 64, 65, 67, 69, 72, 60, 62, 64, 65]
  expect(voiceRange(sung(midis))).toEqual({ lowMidi: 55, highMidi: 72 })
  expect(voiceRange(sung(midis, 2_400))).toBeNull()
  expect(voiceRange(sung(midis.slice(0, 5)))).toBeNull()
  expect(voiceRange(song)).toBeNull()
  const binned = { ...sung(midis), takes: sung(midis).takes.map(take => ({ ...take, binned: true })) }
  expect(voiceRange(binned)).toBeNull()
})

test('one squeak in a long song is not the singer’s range', () => {
  const midis = [...Array.from({ length: 200 }, (_, i) => 57 + (i % 12)), 90]
  expect(voiceRange(sung(midis))!.highMidi).toBeLessThan(70)
})

test('what of a part lies outside is counted on both sides', () => {
  const part = [50, 60, 74, 75].map((midi, i) => ({ startFrame: i * 100, endFrame: i * 100 + 100, midi }))
  expect(outOfRange(part, { lowMidi: 55, highMidi: 72 })).toEqual({ below: 1, above: 2 })
})
