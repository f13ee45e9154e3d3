import { describe, expect, test } from '@jest/globals'
import { setBeatMix } from '../mix/commands'
import { MOST_PART_NOTES } from '../song/part-schema'
import type { Song } from '../song/schema'
import { requireLayer } from '../song/select'
import { setKey } from '../song/beat-facts'
import { setGrid } from '../song/sections'
import { layerOf, lineRange, makeId, smallSong } from '../song/song.test-kit'
import { setPart } from './commands'
import { writePartMidi } from './midi'
import { partOfLead } from './part-of-lead'
import { partFromMidi, partMidi } from './song-midi'

const song = setBeatMix(smallSong(), { muted: true })
const high = layerOf(song, 'High 1')
const range = lineRange(0)
const notes = [0, 1, 3].map((at, i) => ({ startFrame: range.startFrame + at * 24_000, endFrame: range.startFrame + (at + 1) * 24_000, midi: 60 + 2 * i }))
const withPart = (of: Song) => setPart(of, { layerId: high, range, notes })

describe('a part as a MIDI file that begins with the song', () => {
  test.each<[string, Song]>([
    ['at 120 bpm from the first frame on', song],
    ['where bar one comes late', setGrid(song, { grid: { ...song.beat.grid, barOneFrame: 13_337 }, makeId })],
    ['at another tempo', setGrid(song, { grid: { ...song.beat.grid, tempoBpm: 92.6, barOneFrame: 500 }, makeId })],
  ])('comes back where it was, within a tick of half a millisecond: %s', (_, of) => {
    const back = partFromMidi(partMidi(of, requireLayer(withPart(of), high)))
    expect(back.map(({ midi }) => midi)).toEqual([60, 62, 64])
    back.forEach(({ startFrame, endFrame }, i) => {
      expect(Math.abs(startFrame - notes[i].startFrame)).toBeLessThan(48)
      expect(Math.abs(endFrame - notes[i].endFrame)).toBeLessThan(48)
    })
  })
  test('with more notes than a part holds, or longer than a song can be, is refused in words', () => {
    const many = Array.from({ length: MOST_PART_NOTES + 1 }, (_, i) => ({ startBeat: i / 4, endBeat: (i + 1) / 4, midi: 60 }))
    expect(() => partFromMidi(writePartMidi([{ name: 'many', notes: many }]))).toThrow(/4001 notes/)
    expect(() => partFromMidi(writePartMidi([{ name: 'late', notes: [{ startBeat: 8_000, endBeat: 8_001, midi: 60 }] }]))).toThrow(/longer than a song/)
  })
})

test('a part of the lead has a note for each of its notes, on the key; without a key there is none', () => {
  const keyed = setKey(song, { key: { tonic: 'C', mode: 'major' }, colour: null })
  expect(partOfLead(keyed, notes, { kind: 'third-above' }).map(({ midi }) => midi)).toEqual([64, 65, 67])
  expect(partOfLead(keyed, notes, { kind: 'third-above' }).map(({ startFrame }) => startFrame)).toEqual(notes.map(({ startFrame }) => startFrame))
  expect(partOfLead({ ...song, beat: { ...song.beat, key: null } }, notes, { kind: 'third-above' })).toEqual([])
})
