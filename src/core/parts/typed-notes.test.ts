import { expect, test } from '@jest/globals'
import { readNote, readTypedNotes, typedPart } from './typed-notes'

test('names with octaves, signs and numbers are read; a name alone is the nearest to the note before', () => {
  expect(readTypedNotes('C4 Eb4, F♯3 69')).toEqual({ ok: true, midis: [60, 63, 54, 69] })
  // From A4 down to G4, up to B4, on to C5: never a seventh away.
  expect(readTypedNotes('A4 G B C')).toEqual({ ok: true, midis: [69, 67, 71, 72] })
  expect(readTypedNotes('b')).toEqual({ ok: true, midis: [59] })
  expect(readTypedNotes('  ')).toEqual({ ok: true, midis: [] })
})

test('what is no note is named, and nothing of it is taken', () => {
  expect(readTypedNotes('C4 H4 D4')).toEqual({ ok: false, unread: 'H4' })
  expect(readTypedNotes('la la')).toEqual({ ok: false, unread: 'la' })
  expect([readNote('128'), readNote('C10'), readNote('C#'), readNote('Cb4'), readNote('B#3')]).toEqual([null, null, 61, 59, 60])
})

test('typed notes take the places of those that are there, in order, or share the line', () => {
  const slots = [
    { startFrame: 0, endFrame: 100 },
    { startFrame: 150, endFrame: 200 },
  ]
  expect(typedPart([60, 62, 64], slots, { startFrame: 0, endFrame: 1_000 })).toEqual([
    { midi: 60, startFrame: 0, endFrame: 100 },
    { midi: 62, startFrame: 150, endFrame: 200 },
  ])
  expect(typedPart([60, 62], [], { startFrame: 100, endFrame: 1_100 })).toEqual([
    { midi: 60, startFrame: 100, endFrame: 600 },
    { midi: 62, startFrame: 600, endFrame: 1_100 },
  ])
  expect(typedPart([], [], { startFrame: 0, endFrame: 100 })).toEqual([])
})
