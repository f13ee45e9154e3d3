import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { TONICS, type Key } from '../beat/key-names'
import { heldPart, makePart, PART_KINDS, type PartKind, type PartNote, type PlacedChord } from './part'

const C: Key = { tonic: 'C', mode: 'major' }
const A: Key = { tonic: 'A', mode: 'minor' }
/** A quarter of a second each, one after the other. */
const line = (midis: readonly number[], seconds = 0.25): PartNote[] =>
  midis.map((midi, i) => ({ startSeconds: i * seconds, endSeconds: (i + 1) * seconds, midi }))
const sung = (notes: readonly PartNote[]) => notes.map(({ midi }) => midi)

describe('a part goes by steps of the key', () => {
  // Written out by hand: c d e f g a b c in each part.
  test.each<[PartKind, Key, number[], number[]]>([
    ['third-above', C, [60, 62, 64, 65, 67, 69, 71, 72], [64, 65, 67, 69, 71, 72, 74, 76]],
    ['third-below', C, [60, 62, 64, 65, 67, 69, 71, 72], [57, 59, 60, 62, 64, 65, 67, 69]],
    ['fifth-above', C, [60, 62, 64, 65, 67, 69, 71, 72], [67, 69, 71, 72, 74, 76, 77, 79]],
    ['sixth-above', C, [60, 62, 64], [69, 71, 72]],
    ['sixth-below', C, [60, 62, 64], [52, 53, 55]],
    ['third-above', A, [57, 59, 60, 62, 64], [60, 62, 64, 65, 67]],
    ['octave-above', A, [57, 61], [69, 73]],
    ['octave-below', C, [60, 61, 66], [48, 49, 54]],
  ])('%s', (kind, key, lead, part) => {
    expect(sung(makePart(line(lead), kind, { key }))).toEqual(part)
  })
  test('with the colour of the key: a minor scale with a raised seventh', () => {
    expect(sung(makePart(line([64, 65]), 'third-above', { key: A, colour: 'harmonic minor' }))).toEqual([68, 69])
  })
})

describe('over chords', () => {
  const chord = (root: number, quality: PlacedChord['quality'], startSeconds: number, endSeconds: number): PlacedChord => ({
    root,
    quality,
    startSeconds,
    endSeconds,
  })
  test('a held note goes to the chord where the step of the scale is none of it: the fourth over the dominant', () => {
    // G held over C: a third above would be B, which rubs against C; C and E are in the chord, and C is nearer.
    const held = [{ startSeconds: 0, endSeconds: 1, midi: 67 }]
    expect(sung(makePart(held, 'third-above', { key: C }))).toEqual([71])
    expect(sung(makePart(held, 'third-above', { key: C, chords: [chord(0, 'major', 0, 2)] }))).toEqual([72])
    expect(sung(makePart(held, 'third-above', { key: C, chords: [chord(7, 'major', 0, 2)] }))).toEqual([71])
  })
  test('a passing note goes by the scale', () => {
    expect(sung(makePart([{ startSeconds: 0.5, endSeconds: 0.7, midi: 67 }], 'third-above', { key: C, chords: [chord(0, 'major', 0, 2)] }))).toEqual([71])
  })
  test('read by the chords, a passing note takes a note of the chord too: it moves less, and rubs nowhere', () => {
    // D E F over C major: by steps F G A, of which F and A are none of the chord.
    const run = line([62, 64, 65])
    const options = { key: C, chords: [chord(0, 'major', -1, 2)] }
    expect(sung(makePart(run, 'third-above', options))).toEqual([65, 67, 69])
    const byChords = sung(makePart(run, 'third-above', { ...options, reading: 'chords' }))
    for (const midi of byChords) expect([0, 4, 7]).toContain(midi % 12)
    byChords.forEach((midi, i) => expect(midi).toBeGreaterThan(run[i].midi))
  })
  test('a held note a semitone from another voice’s gives way to another note of the chord', () => {
    const held = [{ startSeconds: 0, endSeconds: 1, midi: 60 }]
    const options = { key: C, chords: [chord(0, 'major seventh', 0, 2)] }
    expect(sung(makePart(held, 'third-above', options))).toEqual([64])
    const others = [{ startSeconds: 0, endSeconds: 1, midi: 65 }]
    expect(sung(makePart(held, 'third-above', { ...options, others }))).not.toEqual([64])
    const elsewhere = [{ startSeconds: 2, endSeconds: 3, midi: 65 }]
    expect(sung(makePart(held, 'third-above', { ...options, others: elsewhere }))).toEqual([64])
  })
  test('a held part takes one note of each chord, the nearest to the one before, and rests between the stretches', () => {
    // C F G C near middle C: C, C (in F too), B or D (a step), C.
    const chords = [chord(0, 'major', 0, 1), chord(5, 'major', 1, 2), chord(7, 'major', 2, 3), chord(0, 'major', 3, 4)]
    const part = heldPart(
      [
        { startSeconds: 0, endSeconds: 2.9 },
        { startSeconds: 3.2, endSeconds: 4 },
      ],
      chords,
      60,
    )
    expect(part.map(({ startSeconds, endSeconds }) => [startSeconds, endSeconds])).toEqual([
      [0, 2],
      [2, 2.9],
      [3.2, 4],
    ])
    expect([part[0].midi, part[2].midi]).toEqual([60, 60])
    expect([59, 62]).toContain(part[1].midi)
    expect(heldPart([{ startSeconds: 0, endSeconds: 4 }], [], 60)).toEqual([])
  })
  test('an octave stays the lead’s own line', () => {
    expect(sung(makePart([{ startSeconds: 0, endSeconds: 1, midi: 65 }], 'octave-below', { key: C, chords: [chord(0, 'major', 0, 2)] }))).toEqual([53])
  })
})

test('whatever is sung, a part has a note for each, never the lead’s own, on its side, and is the same part a whole tone higher', () => {
  const chords = fc.array(fc.record({ root: fc.integer({ min: 0, max: 11 }), quality: fc.constantFrom('major' as const, 'minor' as const) }), { maxLength: 4 })
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 40, max: 80 }), { maxLength: 12 }),
      fc.constantFrom(...TONICS.slice(0, 10)),
      fc.constantFrom(...PART_KINDS.filter(kind => kind !== 'unison')),
      chords,
      (midis, tonic, kind, names) => {
        const lead = line(midis, 0.6)
        const placed = (up: number) => names.map(({ root, quality }, i) => ({ root: (root + up) % 12, quality, startSeconds: i, endSeconds: i + 1 }))
        const part = sung(makePart(lead, kind, { key: { tonic, mode: 'major' }, chords: placed(0) }))
        const side = kind.endsWith('above') ? 1 : -1
        expect(part).toHaveLength(midis.length)
        part.forEach((midi, i) => expect(side * (midi - midis[i])).toBeGreaterThan(0))
        const higher = makePart(
          lead.map(note => ({ ...note, midi: note.midi + 2 })),
          kind,
          { key: { tonic: TONICS[(TONICS.indexOf(tonic) + 2) % 12], mode: 'major' }, chords: placed(2) },
        )
        expect(sung(higher)).toEqual(part.map(midi => midi + 2))
      },
    ),
  )
})
