import { describe, expect, test } from '@jest/globals'
import { makeRandom } from '../audio/random'
import { scaleSemitones, TONICS, type Tonic } from '../beat/key-names'
import { placedLines } from '../song/select'
import { smallSong } from '../song/song.test-kit'
import { syllablesOf } from './phonemes'
import { scoreOfSheet } from './score'

const song = { ...smallSong(), beat: { ...smallSong().beat, key: { tonic: 'F', mode: 'minor' } as const } }

describe('syllables', () => {
  test.each([
    ['rain', 1],
    ['home', 1],
    ['harbour', 2],
    ['window', 2],
    ['folded in half', 4],
    ['ticket stub', 3],
    ['la la la', 3],
  ])('“%s” is sung on %d', (words, count) => expect(syllablesOf(words)).toHaveLength(count))

  test.each(['', '   ', '…', '123', '!?', '漢字', 'ñandú', "o'er the sea", 'rhythm', 'x'.repeat(500), '🌧 rain'])(
    '“%.20s” gives something to sing, each with a vowel that a mouth can make',
    words => {
      const syllables = syllablesOf(words)
      expect(syllables.length).toBeGreaterThan(0)
      for (const { vowel, onset, coda } of syllables) {
        for (const formants of [vowel.from, vowel.to]) formants.forEach((hz, i) => expect(hz).toBeGreaterThan(i === 0 ? 200 : formants[i - 1]))
        for (const consonant of [...onset, ...coda]) expect(consonant.seconds).toBeGreaterThan(0)
      }
    },
  )

  test('any letters in any order end, and no word is lost', () => {
    const random = makeRandom(9)
    for (let i = 0; i < 300; i++) {
      const words = Array.from({ length: 1 + Math.floor(4 * random()) }, () =>
        Array.from({ length: 1 + Math.floor(9 * random()) }, () => String.fromCharCode(97 + Math.floor(26 * random()))).join(''),
      )
      expect(syllablesOf(words.join(' ')).length).toBeGreaterThanOrEqual(words.length)
    }
  })
})

describe('the score', () => {
  test('has one line for each of the sheet’s, inside it, with a beat left to breathe in', () => {
    const score = scoreOfSheet(song)
    const placed = placedLines(song)
    expect(score).toHaveLength(placed.length)
    score.forEach(({ notes }, i) => {
      expect(notes[0].startSeconds).toBeCloseTo(placed[i].startFrame / 48_000, 6)
      expect(notes.at(-1)!.endSeconds).toBeLessThanOrEqual(placed[i].endFrame / 48_000 - 0.5 + 1e-6)
      notes.slice(1).forEach((note, k) => expect(note.startSeconds).toBeGreaterThanOrEqual(notes[k].startSeconds))
      for (const note of notes) expect(note.endSeconds).toBeGreaterThan(note.startSeconds)
    })
  })

  test.each([
    ['F', 'minor', 0],
    ['A', 'major', 0],
    ['Eb', 'minor', 2],
    ['G', 'major', -7],
  ] as const)('in %s %s, shifted by %d degrees, every note is of the key', (tonic, mode, shift) => {
    const key = { tonic: tonic as Tonic, mode }
    const scale = scaleSemitones(mode).map(semitone => (semitone + TONICS.indexOf(key.tonic)) % 12)
    const notes = scoreOfSheet({ ...song, beat: { ...song.beat, key } }, shift).flatMap(line => line.notes)
    for (const { midi } of notes) {
      expect(scale).toContain(((midi % 12) + 12) % 12)
      expect(midi).toBeGreaterThan(30)
      expect(midi).toBeLessThan(90)
    }
  })

  test('a third above lies three or four semitones above, an octave below twelve below', () => {
    const midis = (shift: number) => scoreOfSheet(song, shift).flatMap(line => line.notes.map(note => note.midi))
    const lead = midis(0)
    midis(2).forEach((midi, i) => expect([3, 4]).toContain(midi - lead[i]))
    midis(-7).forEach((midi, i) => expect(midi - lead[i]).toBe(-12))
  })

  test('a beat that is tuned off is sung along with', () => {
    const tuned = scoreOfSheet({ ...song, beat: { ...song.beat, tuningCents: 30 } })
    expect(tuned[0].notes[0].midi - scoreOfSheet(song)[0].notes[0].midi).toBeCloseTo(0.3, 9)
  })
})
