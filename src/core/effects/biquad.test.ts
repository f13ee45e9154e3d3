import { describe, expect, test } from '@jest/globals'
import { makeRandom } from '../audio/random'
import { sine } from '../audio/signals.test-kit'
import { highPass, highShelf, lowPass, responseDecibels, StereoBiquad, type BiquadCoefficients } from './biquad'

const FREQUENCIES_HZ = [20, 60, 90, 180, 1_000, 5_000, 12_000, 20_000]

/** A Butterworth filter of second order after the bilinear transform, whose frequencies are tangents. */
const butterworthDecibels = (hz: number, cutoffHz: number, pass: 'high' | 'low') => {
  const ratio = Math.tan((Math.PI * hz) / 48_000) / Math.tan((Math.PI * cutoffHz) / 48_000)
  return -10 * Math.log10(1 + (pass === 'high' ? 1 / ratio : ratio) ** 4)
}

/** The difference equation, written out in doubles. */
function differenceEquation({ b0, b1, b2, a1, a2 }: BiquadCoefficients, input: Float32Array): Float64Array {
  const output = new Float64Array(input.length)
  for (let i = 0; i < input.length; i++)
    output[i] = b0 * input[i] + b1 * (input[i - 1] ?? 0) + b2 * (input[i - 2] ?? 0) - a1 * (output[i - 1] ?? 0) - a2 * (output[i - 2] ?? 0)
  return output
}

const noise = (seed: number, frames: number) => {
  const random = makeRandom(seed)
  return Float32Array.from({ length: frames }, () => random() - 0.5)
}
const FILTERS: [string, BiquadCoefficients][] = [
  ['a low cut', highPass(90)],
  ['a narrow low cut', highPass(300, 4)],
  ['a high cut', lowPass(6_000)],
  ['a shelf up', highShelf(8_000, 6)],
  ['a shelf down', highShelf(3_000, -9)],
  ['a low cut near the top', highPass(18_000)],
]

describe('coefficients', () => {
  test.each([60, 90, 400, 8_000])('low and high cut at %d Hz have Butterworth’s slopes', cutoffHz => {
    for (const hz of FREQUENCIES_HZ) {
      expect(responseDecibels(highPass(cutoffHz), hz)).toBeCloseTo(butterworthDecibels(hz, cutoffHz, 'high'), 4)
      expect(responseDecibels(lowPass(cutoffHz), hz)).toBeCloseTo(butterworthDecibels(hz, cutoffHz, 'low'), 4)
    }
  })

  test.each([-12, -2.5, 0, 4, 12])('a shelf of %d dB does nothing below, all of it above and half of it at its corner', gainDecibels => {
    const shelf = highShelf(6_000, gainDecibels)
    expect(responseDecibels(shelf, 1)).toBeCloseTo(0, 3)
    expect(responseDecibels(shelf, 23_999)).toBeCloseTo(gainDecibels, 3)
    expect(responseDecibels(shelf, 6_000)).toBeCloseTo(gainDecibels / 2, 3)
  })
})

describe('the filter', () => {
  test.each(FILTERS)('%s computes its difference equation, whatever blocks the sound comes in, each side by itself', (_, coefficients) => {
    const [left, right] = [noise(1, 5_000), noise(2, 5_000)]
    const expected = [left, right].map(plane => differenceEquation(coefficients, plane))
    const filter = new StereoBiquad(coefficients)
    for (let at = 0, size = 1; at < left.length; at += size, size = (7 * size + 3) % 128) {
      size = Math.max(1, size)
      filter.process(left.subarray(at, at + size), right.subarray(at, at + size))
    }
    for (let i = 0; i < left.length; i++) {
      expect(Math.abs(left[i] - expected[0][i])).toBeLessThan(2e-6)
      expect(Math.abs(right[i] - expected[1][i])).toBeLessThan(2e-6)
    }
  })

  test('set otherwise, it becomes the other filter, and a steady tone never steps further than it swings', () => {
    const filter = new StereoBiquad(highPass(60))
    const tone = sine({ hz: 200, frames: 48_000, amplitude: 0.5 })
    filter.process(tone.subarray(0, 24_000), new Float32Array(24_000))
    filter.set(highPass(400))
    filter.process(tone.subarray(24_000), new Float32Array(24_000))
    let largest = 0
    for (let i = 20_000; i < tone.length; i++) largest = Math.max(largest, Math.abs(tone[i] - tone[i - 1]))
    expect(largest).toBeLessThan(1.5 * 0.5 * 2 * Math.sin((Math.PI * 200) / 48_000))
    const level = 20 * Math.log10(Math.max(...tone.subarray(47_000)) / 0.5)
    expect(level).toBeCloseTo(responseDecibels(highPass(400), 200), 2)
  })

  test('set otherwise again before the first change is over, it ends at the last', () => {
    const filter = new StereoBiquad(lowPass(5_000))
    const silence = () => new Float32Array(128)
    filter.set(highPass(2_000))
    filter.process(silence(), silence())
    filter.set(highShelf(4_000, 3))
    for (let block = 0; block < 6; block++) filter.process(silence(), silence())
    const heard = noise(3, 2_000)
    const expected = differenceEquation(highShelf(4_000, 3), heard)
    filter.process(heard, heard.slice())
    for (let i = 0; i < heard.length; i++) expect(Math.abs(heard[i] - expected[i])).toBeLessThan(2e-6)
  })

  test('after a reset nothing of what was before is left; after silence it falls silent altogether', () => {
    const filter = new StereoBiquad(lowPass(200))
    filter.process(noise(4, 4_800), noise(5, 4_800))
    filter.reset()
    const silence = new Float32Array(100)
    filter.process(silence, silence.slice())
    expect([...silence]).toEqual(new Array(100).fill(0))
    filter.process(noise(6, 4_800), noise(7, 4_800))
    const tail = new Float32Array(96_000)
    for (let at = 0; at < tail.length; at += 128) filter.process(tail.subarray(at, at + 128), new Float32Array(128))
    expect(Math.max(...tail.subarray(-128).map(Math.abs))).toBe(0)
  })
})
