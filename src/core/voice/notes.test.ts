import { describe, expect, test } from '@jest/globals'
import { HOP_SECONDS } from './hop'
import { readNotes } from './notes'

interface Sung {
  seconds: number
  midi: number
  vibratoCents?: number
  vibratoHz?: number
  /** Below the note, over its first 80 ms. */
  scoopCents?: number
  /** A rest, or a dip of the level without one, after it. */
  restSeconds?: number
  dip?: boolean
}

/** The pitch of notes sung one after the other, each reached within 30 ms. */
function sung(notes: readonly Sung[]) {
  const f0Hz: number[] = Array.from({ length: 20 }, () => 0)
  const power: number[] = f0Hz.map(() => 1e-9)
  let at = notes[0].midi
  for (const { seconds, midi, vibratoCents = 0, vibratoHz = 5.5, scoopCents = 0, restSeconds = 0, dip = false } of notes) {
    const hops = Math.round(seconds / HOP_SECONDS)
    if (f0Hz.at(-1) === 0) at = midi
    for (let i = 0; i < hops; i++) {
      at += (midi - at) * 0.35
      const scoop = scoopCents * Math.max(0, 1 - (i * HOP_SECONDS) / 0.08)
      f0Hz.push(440 * 2 ** ((at - 69) / 12 + (vibratoCents * Math.sin(2 * Math.PI * vibratoHz * i * HOP_SECONDS) - scoop) / 1_200))
      power.push(dip && i > hops - 10 ? 1e-4 : 1e-2)
    }
    for (let i = 0; i < restSeconds / HOP_SECONDS; i++) {
      f0Hz.push(0)
      power.push(1e-9)
    }
  }
  return { f0Hz: Float32Array.from(f0Hz), power: Float32Array.from(power) }
}

const readMidi = (notes: readonly Sung[]) => readNotes(sung(notes)).map(({ cents }) => Math.round(cents / 10) / 10)

describe('notes', () => {
  test('that follow each other are read with their times and pitches', () => {
    const line = [60, 62, 64, 62, 57].map(midi => ({ midi, seconds: 0.3 }))
    const notes = readNotes(sung(line))
    expect(notes.map(({ cents }) => Math.round(cents / 100))).toEqual([60, 62, 64, 62, 57])
    notes.forEach((note, i) => {
      expect(Math.abs(note.startSeconds - (0.1 + 0.3 * i))).toBeLessThan(0.025)
      expect(Math.abs(note.cents - 100 * line[i].midi)).toBeLessThan(2)
    })
  })
  test('of a run, 100 ms each, are told apart', () => {
    const run = [60, 62, 64, 65, 67, 65, 64].map(midi => ({ midi, seconds: 0.1 }))
    expect(readNotes(sung(run)).map(({ cents }) => Math.round(cents / 100))).toEqual([60, 62, 64, 65, 67, 65, 64])
  })
  test.each([20, 50, 90])('with %d cents of vibrato are one note each, its middle where it is meant', vibratoCents => {
    const notes = readNotes(
      sung([
        { midi: 62.3, seconds: 1.1, vibratoCents },
        { midi: 65, seconds: 0.9, vibratoCents },
      ]),
    )
    expect(notes.map(({ cents }) => Math.abs(cents - (cents < 6_400 ? 6_230 : 6_500)) < 8)).toEqual([true, true])
    for (const note of notes) {
      expect(Math.abs(note.vibratoCents - vibratoCents)).toBeLessThan(0.2 * vibratoCents)
      expect(Math.abs(note.vibratoHz - 5.5)).toBeLessThan(0.5)
    }
  })
  test('begin with their scoop, which is not held', () => {
    const [note, ...others] = readNotes(sung([{ midi: 64, seconds: 0.6, scoopCents: 200 }]))
    expect(others).toEqual([])
    expect(note.startSeconds).toBeCloseTo(0.1, 2)
    expect(note.heldFromSeconds - note.startSeconds).toBeGreaterThan(0.04)
    expect(note.cents).toBeCloseTo(6_400, -1)
  })
  test('begin with a scoop that is held for a moment, too', () => {
    const notes = readNotes(
      sung([
        { midi: 62.2, seconds: 0.11 },
        { midi: 64, seconds: 0.5 },
        { midi: 60, seconds: 0.12 },
        { midi: 64, seconds: 0.3 },
      ]),
    )
    // In the middle of a line as short a note is a note.
    expect(notes.map(({ cents }) => Math.round(cents / 100))).toEqual([64, 60, 64])
    expect(notes[0].heldFromSeconds).toBeGreaterThan(0.19)
  })
  test('of one pitch are parted by a rest, and by a consonant that dips', () => {
    expect(
      readMidi([
        { midi: 64, seconds: 0.4, restSeconds: 0.08 },
        { midi: 64, seconds: 0.4, dip: true },
        { midi: 64, seconds: 0.4 },
      ]),
    ).toEqual([64, 64, 64])
  })
  test('are not cut where the pitch is lost for a moment', () => {
    const held = sung([{ midi: 64, seconds: 0.8 }])
    held.f0Hz.fill(0, 90, 94)
    expect(readNotes(held)).toHaveLength(1)
  })
  test('are none in silence, nor in a cough of 30 ms', () => {
    expect(readNotes({ f0Hz: new Float32Array(500), power: new Float32Array(500) })).toEqual([])
    expect(readMidi([{ midi: 60, seconds: 0.03, restSeconds: 1 }])).toEqual([])
  })
})
