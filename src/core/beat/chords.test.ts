import { describe, expect, test } from '@jest/globals'
import { makeRandom } from '../audio/random'
import { CHORD_QUALITIES, INTERVALS, type ChordName, type ChordQuality } from './chord-names'
import { findChords } from './chords'
import type { KeyReading } from './key'
import { TONICS, type Mode, type ModeColour } from './key-names'
import type { PitchFrames } from './pitches'

const HOP_SECONDS = 0.085
const BEAT_SECONDS = 0.5

/** What would be heard of notes struck every two beats: each with the fifth and third that its overtones are, a little of everything besides. */
function playing(halfBars: { notes: readonly number[]; bass: number | null }[], seed = 1): PitchFrames {
  const random = makeRandom(seed)
  const frames = Math.ceil((halfBars.length * 2 * BEAT_SECONDS) / HOP_SECONDS)
  const treble = new Float32Array(12 * frames)
  const bass = new Float32Array(12 * frames)
  for (let frame = 0; frame < frames; frame++) {
    const { notes, bass: lowest } = halfBars[Math.min(halfBars.length - 1, Math.floor((frame * HOP_SECONDS) / (2 * BEAT_SECONDS)))]
    const sound = (values: Float32Array, note: number, weight: number) => (values[frame * 12 + (note % 12)] += weight)
    for (const note of notes)
      [
        [0, 1],
        [7, 0.25],
        [4, 0.1],
      ].forEach(([above, weight]) => sound(treble, note + above, weight))
    if (lowest !== null)
      [
        [0, 1],
        [7, 0.15],
      ].forEach(([above, weight]) => sound(bass, lowest + above, weight))
    if (notes.length > 0) for (let note = 0; note < 12; note++) sound(treble, note, 0.04 * random())
  }
  return { hopSeconds: HOP_SECONDS, treble, bass, tuningCents: 0, tuningAgreement: 1, tonality: 1 }
}

const chordOf = (root: number, quality: ChordQuality) => ({ notes: INTERVALS[quality].map(interval => root + interval), bass: root })
const believed = (tonic: number, mode: Mode, confidence: number, colour: ModeColour | null = null): KeyReading => ({
  key: { tonic: TONICS[tonic % 12], mode },
  colour,
  confidence,
})
const find = (halfBars: { notes: readonly number[]; bass: number | null }[], keys: KeyReading[] = []) =>
  findChords(
    playing(halfBars),
    Array.from({ length: 2 * halfBars.length + 1 }, (_, beat) => beat * BEAT_SECONDS),
    0,
    4,
    keys,
  )
const names = (spans: { chord: ChordName | null }[]) => spans.map(({ chord }) => chord && `${chord.root} ${chord.quality}`)

test.each(CHORD_QUALITIES)('a %s chord is named on every root', quality => {
  for (let root = 0; root < 12; root++) expect(names(find([chordOf(root, quality), chordOf(root, quality)]))).toEqual([`${root} ${quality}`])
})

describe('chords one after another', () => {
  const loop = [chordOf(9, 'minor'), chordOf(9, 'minor'), chordOf(5, 'major'), chordOf(7, 'major')]
  test('are counted from bar one, by bars and half bars', () => {
    const spans = find([...loop, ...loop])
    expect(spans.map(({ startBeat, beatCount }) => [startBeat, beatCount])).toEqual([
      [0, 4],
      [4, 2],
      [6, 2],
      [8, 4],
      [12, 2],
      [14, 2],
    ])
    expect(names(spans)).toEqual(['9 minor', '5 major', '7 major', '9 minor', '5 major', '7 major'])
    expect(spans.every(({ confidence }) => confidence > 0.5 && confidence <= 1)).toBe(true)
  })
  test('move with the notes, whatever the key', () => {
    const moved = (by: number) =>
      find(
        loop.map(({ notes, bass }) => ({ notes: notes.map(note => note + by), bass: bass + by })),
        [believed(9 + by, 'minor', 0.9)],
      )
    for (let by = 0; by < 12; by++) expect(moved(by).map(({ chord }) => (chord!.root + 12 - by) % 12)).toEqual([9, 5, 7])
  })
  test('are none where nothing sounds', () => {
    const silence = { notes: [], bass: null }
    expect(names(find([loop[0], loop[0], loop[2], loop[2], silence, silence]))).toEqual(['9 minor', '5 major', null])
  })
})

describe('a chord without a third', () => {
  const [g, d] = [7, 2]
  const open = [
    { notes: [g, d, g + 12], bass: g },
    { notes: [g, d, g + 12], bass: g },
  ]
  const thirdIn = (keys: KeyReading[]) => (INTERVALS[find(open, keys)[0].chord!.quality].includes(3) ? 'minor' : 'major')
  test('has the third of the key that is believed', () => {
    expect(find(open)[0].chord!.root).toBe(g)
    expect(thirdIn([believed(2, 'minor', 0.95)])).toBe('minor')
    expect(thirdIn([believed(7, 'major', 0.95)])).toBe('major')
  })
})

test('a note that the colour of the key brings in is no stranger there', () => {
  // A chord on the fourth step over D, its third not quite plain: strange in D minor if it is major, at home in D dorian.
  const heard = playing([
    { notes: [], bass: 7 },
    { notes: [], bass: 7 },
  ])
  for (const [note, weight] of [
    [7, 1],
    [2, 1],
    [11, 0.4],
    [10, 0.15],
  ])
    for (let i = note; i < heard.treble.length; i += 12) heard.treble[i] = weight
  const intervalsIn = (colour: ModeColour | null) =>
    INTERVALS[findChords(heard, [0, 0.5, 1, 1.5, 2], 0, 4, [believed(2, 'minor', 0.95, colour)])[0].chord!.quality]
  expect(intervalsIn(null)).toContain(3)
  expect(intervalsIn('dorian')).toContain(4)
})
