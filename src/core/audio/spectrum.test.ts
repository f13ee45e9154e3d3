import { describe, expect, test } from '@jest/globals'
import { dotProduct } from './dot-product'
import { halveRate } from './halve-rate'
import { makeRandom } from './random'
import { sine } from './signals.test-kit'
import { Spectrum } from './spectrum'
import { besselI0, hannWindow, kaiserBeta } from './window'

/** The definition, term by term. */
function slowMagnitudes(block: Float32Array): number[] {
  const size = block.length
  return Array.from({ length: size / 2 + 1 }, (_, bin) => {
    let re = 0
    let im = 0
    for (let i = 0; i < size; i++) {
      const windowed = block[i] * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size))
      re += windowed * Math.cos((2 * Math.PI * bin * i) / size)
      im -= windowed * Math.sin((2 * Math.PI * bin * i) / size)
    }
    return (4 * Math.hypot(re, im)) / size
  })
}

describe('a spectrum', () => {
  const random = makeRandom(1)
  const noise = Float32Array.from({ length: 600 }, () => 2 * random() - 1)

  test.each([4, 8, 64, 256])('of %d frames is the discrete Fourier transform of the windowed block', size => {
    const expected = slowMagnitudes(noise.subarray(100, 100 + size))
    // In noise no bin has a scale of its own: the largest is what rounding is measured by.
    const largest = Math.max(...expected)
    const read = new Spectrum(size).read(noise, 100)
    expected.forEach((magnitude, bin) => expect(Math.abs(read[bin] - magnitude) / largest).toBeLessThan(1e-6))
  })

  test('of a full-scale sine reads 1 at its bin, half beside it, and nothing further away', () => {
    const read = new Spectrum(512).read(sine({ hz: (40 * 48_000) / 512, frames: 512 }), 0)
    expect(read[40]).toBeCloseTo(1, 5)
    expect(read[39]).toBeCloseTo(0.5, 5)
    expect(read[41]).toBeCloseTo(0.5, 5)
    for (const bin of [0, 20, 37, 43, 256]) expect(read[bin]).toBeLessThan(1e-5)
  })

  test('reads silence outside the signal, and forgets what it read before', () => {
    const spectrum = new Spectrum(64)
    const padded = new Float32Array(64)
    padded.set(noise.subarray(0, 24), 40)
    const alone = new Spectrum(64).read(padded, 0).slice()
    spectrum.read(noise, 200)
    expect([...spectrum.read(noise.subarray(0, 24), -40)]).toEqual([...alone])
    expect(Math.max(...spectrum.read(noise, 5_000))).toBe(0)
  })
})

describe('windows', () => {
  // Abramowitz and Stegun, Handbook of Mathematical Functions, table 9.8 (there times e^-x) and 9.6.12.
  test.each([
    [0, 1],
    [1, 1.2660658777520084],
    [5, 27.239871823604442],
    [10, 2815.716628466254],
  ])('the Bessel function I0(%d) is %d', (x, value) => expect(besselI0(x) / value).toBeCloseTo(1, 12))

  test('Kaiser’s beta is his formula in each of its three parts', () => {
    expect(kaiserBeta(20)).toBe(0)
    expect(kaiserBeta(30)).toBeCloseTo(2.1166, 3)
    expect(kaiserBeta(60)).toBeCloseTo(5.6533, 3)
  })

  test('shifted by half, periodic Hann windows add up to one', () => {
    const window = hannWindow(64)
    for (let i = 0; i < 32; i++) expect(window[i] + window[i + 32]).toBeCloseTo(1, 6)
  })
})

describe('half the rate', () => {
  const rms = (signal: Float32Array) => Math.sqrt(signal.reduce((sum, x) => sum + x * x, 0) / signal.length)

  test.each([
    [1_000, 0],
    [8_000, 0],
  ])('keeps a tone at %d Hz in its place and at its level', hz => {
    const halved = halveRate(sine({ hz, frames: 9_600 }))
    const expected = sine({ hz, frames: 4_800, sampleRateHz: 24_000 })
    for (let i = 100; i < 4_700; i++) expect(Math.abs(halved[i] - expected[i])).toBeLessThan(2e-3)
  })

  test.each([16_000, 20_000, 23_000])('has nothing of a tone at %d Hz, which it cannot hold', hz => {
    expect(20 * Math.log10(rms(halveRate(sine({ hz, frames: 48_000 })).subarray(50, -50)))).toBeLessThan(-55)
  })

  test('is as long as half the signal, rounded up, at the edges of the blocks it works in too', () => {
    for (const frames of [1, 2, 3, 16_383, 16_384, 16_385]) expect(halveRate(new Float32Array(frames)).length).toBe(Math.ceil(frames / 2))
    const long = sine({ hz: 500, frames: 40_000 })
    const halved = halveRate(long)
    for (let i = 8_180; i < 8_210; i++) expect(Math.abs(halved[i] - long[2 * i])).toBeLessThan(1e-3)
  })
})

test.each([0, 1, 2, 3, 4, 5, 7, 100, 101])('the product of two stretches of %d frames is the sum of products, whatever is left over of four', count => {
  const random = makeRandom(count)
  const signal = Float64Array.from({ length: 300 }, () => 2 * random() - 1)
  let expected = 0
  for (let i = 0; i < count; i++) expected += signal[i] * signal[i + 150]
  expect(dotProduct(signal, 0, 150, count)).toBeCloseTo(expected, 12)
})
