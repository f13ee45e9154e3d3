import { expect, test } from '@jest/globals'
import { noteOfKey, PIANO_KEYS, readKeyMessage, withPlayed } from './played'

const note = (startFrame: number, endFrame: number, midi = 60) => ({ startFrame, endFrame, midi })

test('a key held is a note, a touch is none, and neither is a key held while the transport went back', () => {
  expect(noteOfKey({ midi: 64, startFrame: 1_000.4 }, 25_000.6)).toEqual(note(1_000, 25_001, 64))
  expect(noteOfKey({ midi: 64, startFrame: 1_000 }, 2_000)).toBeNull()
  expect(noteOfKey({ midi: 64, startFrame: 90_000 }, 1_000)).toBeNull()
})

test('what is played over a note takes its place, what is played beside one cuts it', () => {
  const part = [note(0, 100), note(100, 200), note(300, 400)]
  expect(withPlayed(part, note(90, 210, 67))).toEqual([note(0, 90), note(90, 210, 67), note(300, 400)])
  expect(withPlayed(part, note(240, 310, 67))).toEqual([note(0, 100), note(100, 200), note(240, 310, 67), note(310, 400)])
  expect(withPlayed([], note(5, 9))).toEqual([note(5, 9)])
})

test('white keys lie on the middle row, black ones above it', () => {
  expect([...'asdfghjk'].map(key => PIANO_KEYS[key])).toEqual([0, 2, 4, 5, 7, 9, 11, 12])
  expect([...'wetyu'].map(key => PIANO_KEYS[key])).toEqual([1, 3, 6, 8, 10])
})

test('of what a keyboard sends, keys are read on every channel; a press without velocity is a release, all else is passed over', () => {
  expect(readKeyMessage(Uint8Array.of(0x93, 60, 80))).toEqual({ midi: 60, isDown: true })
  expect(readKeyMessage(Uint8Array.of(0x90, 60, 0))).toEqual({ midi: 60, isDown: false })
  expect(readKeyMessage(Uint8Array.of(0x8f, 60, 64))).toEqual({ midi: 60, isDown: false })
  expect(readKeyMessage(Uint8Array.of(0xb0, 64, 127))).toBeNull()
  expect(readKeyMessage(Uint8Array.of(0xfe))).toBeNull()
})
