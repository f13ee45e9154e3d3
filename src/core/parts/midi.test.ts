import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { readPartMidi, writePartMidi } from './midi'

const NOTES = [
  { startBeat: 0, endBeat: 1, midi: 60, word: 'slow' },
  { startBeat: 1, endBeat: 1.5, midi: 62 },
  { startBeat: 2, endBeat: 4, midi: 64, word: 'ferry' },
]

/** A reader of its own: chunks, then events with running ticks; enough of the standard for what is written here. */
function readByHand(bytes: Uint8Array) {
  const text = (from: number, length: number) => String.fromCharCode(...bytes.subarray(from, from + length))
  const big = (from: number, length: number) => bytes.subarray(from, from + length).reduce((sum, byte) => 256 * sum + byte, 0)
  expect(text(0, 4)).toBe('MThd')
  const [format, tracks, division] = [big(8, 2), big(10, 2), big(12, 2)]
  const events: { track: number; tick: number; what: string }[] = []
  let at = 14
  for (let track = 0; track < tracks; track++) {
    expect(text(at, 4)).toBe('MTrk')
    const end = at + 8 + big(at + 4, 4)
    at += 8
    const variable = () => {
      let value = 0
      for (;;) {
        const byte = bytes[at++]
        value = 128 * value + (byte & 127)
        if (byte < 128) return value
      }
    }
    let tick = 0
    let status = 0
    while (at < end) {
      tick += variable()
      if (bytes[at] >= 128) status = bytes[at++]
      if (status === 0xff) {
        const kind = bytes[at++]
        const length = variable()
        events.push({
          track,
          tick,
          what: kind === 0x51 ? `tempo ${big(at, length)}` : kind === 0x2f ? 'end' : `${kind === 0x03 ? 'name' : 'word'} ${text(at, length)}`,
        })
        at += length
      } else {
        const [note, velocity] = [bytes[at], bytes[at + 1]]
        at += 2
        events.push({ track, tick, what: `${status >> 4 === 9 && velocity > 0 ? 'on' : 'off'} ${note}` })
      }
    }
    expect(at).toBe(end)
  }
  expect(at).toBe(bytes.length)
  return { format, division, events }
}

describe('a part as a MIDI file', () => {
  test('is read by another reader: tempos, name, words, notes at their ticks', () => {
    const { format, division, events } = readByHand(
      writePartMidi(
        [{ name: 'third above', notes: NOTES }],
        [
          { beat: 0, bpm: 100 },
          { beat: 2, bpm: 50 },
        ],
      ),
    )
    expect([format, division]).toEqual([1, 960])
    expect(events.filter(({ track }) => track === 0).map(({ tick, what }) => [tick, what])).toEqual([
      [0, 'tempo 600000'],
      [1_920, 'tempo 1200000'],
      [1_920, 'end'],
    ])
    expect(events.filter(({ track }) => track === 1).map(({ tick, what }) => [tick, what])).toEqual([
      [0, 'name third above'],
      [0, 'word slow'],
      [0, 'on 60'],
      [960, 'off 60'],
      [960, 'on 62'],
      [1_440, 'off 62'],
      [1_920, 'word ferry'],
      [1_920, 'on 64'],
      [3_840, 'off 64'],
      [3_840, 'end'],
    ])
  })
  test('comes back at its times, through every change of tempo', () => {
    const back = readPartMidi(
      writePartMidi(
        [{ name: 'part', notes: NOTES }],
        [
          { beat: 0, bpm: 100 },
          { beat: 2, bpm: 50 },
        ],
      ),
    )
    expect(back.map(({ startSeconds, endSeconds, midi }) => [startSeconds.toFixed(3), endSeconds.toFixed(3), midi])).toEqual([
      ['0.000', '0.600', 60],
      ['0.600', '0.900', 62],
      ['1.200', '3.600', 64],
    ])
  })
  test('of chords the highest line is read', () => {
    const chord = [60, 64, 67].map(midi => ({ startBeat: 0, endBeat: 2, midi }))
    expect(readPartMidi(writePartMidi([{ name: 'chords', notes: [...chord, { startBeat: 1, endBeat: 2, midi: 72 }] }]))).toEqual([
      { startSeconds: 0, endSeconds: 0.5, midi: 67 },
      { startSeconds: 0.5, endSeconds: 1, midi: 72 },
    ])
  })
  test('what is no such file, or has no notes, is refused in words; damage never does more than that', () => {
    expect(() => readPartMidi(new Uint8Array([1, 2, 3]))).toThrow(/no Standard MIDI File/)
    expect(() => readPartMidi(writePartMidi([{ name: 'empty', notes: [] }]))).toThrow(/no notes/)
    const whole = writePartMidi([{ name: 'part', notes: NOTES }])
    fc.assert(
      fc.property(fc.nat(whole.length - 1), fc.nat(255), fc.nat(whole.length), (at, byte, length) => {
        const damaged = whole.slice(0, Math.max(1, length))
        damaged[at % damaged.length] = byte
        try {
          for (const note of readPartMidi(damaged)) expect(Number.isFinite(note.startSeconds) && note.endSeconds >= note.startSeconds).toBe(true)
        } catch (error) {
          if (!(error instanceof RangeError)) throw error
        }
      }),
      { numRuns: 500 },
    )
  })
})
