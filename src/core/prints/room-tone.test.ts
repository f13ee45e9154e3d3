import { describe, expect, test } from '@jest/globals'
import type { Mono } from '../audio/frames'
import { gaussian, makeRandom } from '../audio/random'
import { fillWithTone } from './fill-with-tone'

const RATE = 48_000
const random = makeRandom(3)
const room = Float32Array.from({ length: 4 * RATE }, () => 0.001 * gaussian(random))
const decibels = (sound: Mono, from: number, to: number) =>
  10 * Math.log10(sound.subarray(from, to).reduce((sum, sample) => sum + sample * sample, 0) / (to - from))
/** A chair for 0.4 s, 40 dB above the room. */
const noisy = room.map((sample, i) => sample + (i >= 2 * RATE && i < 2.4 * RATE ? 0.1 * Math.sin(i / 20) : 0))

describe('a noise that gives way to the room', () => {
  test.each([
    ['longer than it', RATE],
    ['shorter than it', RATE / 5],
  ])('leaves as much noise as the room has, from a tone %s', (_, frames) => {
    const filled = noisy.slice()
    const [from, to] = [1.98 * RATE, 2.42 * RATE]
    fillWithTone(filled, from, to, room.slice(RATE / 2, RATE / 2 + frames))
    for (let at = from; at + 4_800 <= to; at += 4_800) expect(Math.abs(decibels(filled, at, at + 4_800) - decibels(room, 0, RATE))).toBeLessThan(1.5)
    expect(filled.subarray(0, from)).toEqual(noisy.subarray(0, from))
    expect(filled.subarray(to)).toEqual(noisy.subarray(to))
    // No step at its ends that the room does not have.
    const steps = (sound: Mono, start: number, end: number) => {
      let most = 0
      for (let i = start; i < end; i++) most = Math.max(most, Math.abs(sound[i] - sound[i - 1]))
      return most
    }
    expect(steps(filled, from - 10, to + 10)).toBeLessThan(1.3 * steps(room, 1, RATE))
  })
  test('outside the sound, or with no tone, nothing is touched', () => {
    for (const [from, to, tone] of [
      [5 * RATE, 6 * RATE, room],
      [RATE, 2 * RATE, new Float32Array(0)],
    ] as const) {
      const filled = noisy.slice()
      fillWithTone(filled, from, to, tone)
      expect(filled).toEqual(noisy)
    }
  })
})
