import { describe, expect, test } from '@jest/globals'
import type { Mono } from '../audio/frames'
import { gaussian, makeRandom } from '../audio/random'
import { trackPitch } from '../voice/pitch'
import { LiveTuner, MOST_TUNER_DELAY_FRAMES } from './live-tuner'

const RATE = 48_000
const A_MINOR = [0, 200, 400, 500, 700, 900, 1_100]

/** A buzz of ten harmonics. */
function buzz(hzAt: (seconds: number) => number, seconds = 2): Mono {
  let phase = 0
  return Float32Array.from({ length: seconds * RATE }, (_, i) => {
    phase += hzAt(i / RATE) / RATE
    let sample = 0
    for (let n = 1; n <= 10; n++) sample += Math.sin(2 * Math.PI * n * phase) / n
    return 0.1 * sample
  })
}

function tuned(voice: Mono, tuningCents = 0, { amount = 1, toleranceCents = 0, rungs = A_MINOR } = {}): Mono {
  const tuner = new LiveTuner()
  tuner.set({ rungs: rungs.map(cents => cents + tuningCents), speedMilliseconds: 45, amount, toleranceCents })
  const output = voice.slice()
  for (let at = 0; at + 128 <= output.length; at += 128) tuner.process(output.subarray(at, at + 128))
  return output
}

/** Median pitch of the second half, in cents against a note. */
function centsOff(sound: Mono, hz: number): number {
  const { f0Hz } = trackPitch(sound)
  const cents = Array.from(f0Hz.subarray(f0Hz.length / 2, f0Hz.length - 10))
    .filter(value => value > 0)
    .map(value => 1_200 * Math.log2(value / hz))
    .sort((a, b) => a - b)
  return cents[cents.length >> 1]
}

describe('hearing oneself in tune', () => {
  test.each([
    [110, -40],
    [220, 35],
    [440, -45],
    [659.26, 30],
  ])('a voice at %d Hz, %d cents off, is heard on the note', (hz, cents) => {
    const voice = buzz(() => hz * 2 ** (cents / 1_200))
    expect(Math.abs(centsOff(voice, hz) - cents)).toBeLessThan(2)
    expect(Math.abs(centsOff(tuned(voice), hz))).toBeLessThan(4)
  })
  test('a note between is drawn into the key, and the key lies where the beat is tuned', () => {
    // B flat is not in A minor: a voice a little above it goes to B, a little below to A.
    expect(Math.abs(centsOff(tuned(buzz(() => 233.08 * 2 ** (12 / 1_200))), 246.94))).toBeLessThan(5)
    expect(
      Math.abs(
        centsOff(
          tuned(
            buzz(() => 220),
            25,
          ),
          220 * 2 ** (25 / 1_200),
        ),
      ),
    ).toBeLessThan(4)
  })
  test('by a share of the way, not at all within the tolerance, and to the only rung there is, as the layer is tuned', () => {
    const flat = buzz(() => 220 * 2 ** (-40 / 1_200))
    expect(Math.abs(centsOff(tuned(flat, 0, { amount: 0.5 }), 220) + 20)).toBeLessThan(3)
    expect(Math.abs(centsOff(tuned(flat, 0, { toleranceCents: 45 }), 220) + 40)).toBeLessThan(2)
    expect(Math.abs(centsOff(tuned(flat, 0, { rungs: [800] }), 207.65))).toBeLessThan(4)
    expect(Math.abs(centsOff(tuned(flat, 0, { rungs: [] }), 220) + 40)).toBeLessThan(2)
  })
  test('splices do not click: no step is larger than those of the voice itself', () => {
    const voice = buzz(t => 220 * 2 ** ((-40 + 25 * Math.sin(2 * Math.PI * 5 * t)) / 1_200))
    const steepest = (sound: Mono) => sound.reduce((most, sample, i) => (i > 4_000 ? Math.max(most, Math.abs(sample - sound[i - 1])) : most), 0)
    expect(steepest(tuned(voice))).toBeLessThan(1.2 * steepest(voice))
  })
  test('breath and esses pass as they are, held back by less than 17 ms', () => {
    const random = makeRandom(5)
    const noise = Float32Array.from({ length: RATE }, () => 0.1 * gaussian(random))
    const output = tuned(noise)
    const same = [...Array(MOST_TUNER_DELAY_FRAMES + 1).keys()].find(delay => [9_000, 20_000, 40_000].every(i => Math.abs(output[i] - noise[i - delay]) < 1e-6))
    expect(same).toBeDefined()
    expect(MOST_TUNER_DELAY_FRAMES / 48).toBeLessThan(17)
  })
})
