import { describe, expect, test } from '@jest/globals'
import { decibelsToGain, peakOf } from '../audio/decibels'
import { sine } from '../audio/signals.test-kit'
import { compressedDecibels, StereoCompressor } from './compressor'
import { gainsThrough, inBlocks, steady } from './steady.test-kit'

const SETTINGS = { kneeDecibels: 6, mixFraction: 1, thresholdDecibels: -20, ratio: 4, attackSeconds: 0.01, releaseSeconds: 0.15, makeupDecibels: 0 }

const gainsOver = (levelsDbfs: readonly number[], settings = SETTINGS) => gainsThrough(new StereoCompressor(settings), levelsDbfs)

describe('the curve', () => {
  test.each([1, 2, 4, 20])('at %d:1 rises by 1 below the knee and by its share above, without a corner or a fall between', ratio => {
    const at = (decibels: number) => compressedDecibels(decibels, -20, ratio, 6)
    expect([at(-60), at(-23)]).toEqual([-60, -23])
    expect(at(0)).toBeCloseTo(-20 + 20 / ratio, 9)
    const slopes = Array.from({ length: 400 }, (_, i) => (at(-40 + i / 10 + 0.01) - at(-40 + i / 10)) / 0.01)
    for (let i = 1; i < slopes.length; i++) {
      expect(slopes[i]).toBeLessThanOrEqual(slopes[i - 1] + 1e-9)
      expect(slopes[i - 1] - slopes[i]).toBeLessThan(0.02)
    }
    expect(slopes[0]).toBeCloseTo(1, 6)
    expect(slopes.at(-1)).toBeCloseTo(1 / ratio, 6)
  })
})

test('without a knee the curve has its corner at the threshold; a wide one begins as much below it', () => {
  expect([-21, -20, -16].map(level => compressedDecibels(level, -20, 4, 0))).toEqual([-21, -20, -19])
  expect(compressedDecibels(-32, -20, 4, 24)).toBe(-32)
  expect(compressedDecibels(-20, -20, 4, 24)).toBeCloseTo(-20 - (0.75 * 12 ** 2) / 48, 9)
})

describe('the compressor', () => {
  test.each([0, 0.25, 1])('of which %d is mixed in, lets the rest stand beside it as it was', mixFraction => {
    const compressor = new StereoCompressor({ ...SETTINGS, mixFraction })
    const tone = Float32Array.from(steady(-4, 1), decibelsToGain)
    inBlocks(compressor, tone, tone.slice())
    expect(tone.at(-1)).toBeCloseTo(decibelsToGain(-4) * (1 - mixFraction + mixFraction * decibelsToGain(-12)), 4)
  })

  test.each([
    [3, -8, -16],
    [4, -4, -16],
    [2, -10, -15],
    [8, -30, -30],
  ])('at %d:1 a steady tone of %d dBFS comes out at %d, on both sides alike', (ratio, level, out) => {
    const compressor = new StereoCompressor({ ...SETTINGS, ratio, attackSeconds: 0.003, releaseSeconds: 0.4 })
    const tone = sine({ hz: 1_000, frames: 48_000, amplitude: decibelsToGain(level) })
    const soft = tone.map(sample => sample / 100)
    inBlocks(compressor, tone, soft)
    expect(Math.abs(20 * Math.log10(peakOf(tone.subarray(24_000))) - out)).toBeLessThan(0.3)
    // What is on one side only stays there: both sides are turned down by the louder.
    for (let i = 24_000; i < 48_000; i += 7) expect(soft[i]).toBeCloseTo(tone[i] / 100, 7)
  })

  test.each([0.002, 0.01, 0.05])('an attack of %d s is when 1 - 1/e of the reduction is there', attackSeconds => {
    const gains = gainsOver([...steady(-60, 0.1), ...steady(-4, 0.6)], { ...SETTINGS, attackSeconds })
    const after = gains.findIndex(gain => gain <= -12 * (1 - 1 / Math.E)) - 4_800
    expect(after / 48_000 / attackSeconds).toBeGreaterThan(0.97)
    expect(after / 48_000 / attackSeconds).toBeLessThan(1.03)
  })

  test.each([0.05, 0.15, 0.6])('a release of %d s is when 1/e of the reduction is left', releaseSeconds => {
    const settings = { ...SETTINGS, attackSeconds: 0.001, releaseSeconds }
    const gains = gainsOver([...steady(-4, 0.3), ...steady(-60, 2)], settings)
    const after = gains.findIndex((gain, i) => i > 14_400 && gain >= -12 / Math.E) - 14_400
    // The attack's smoothing comes on top.
    expect(after / 48_000).toBeGreaterThan(releaseSeconds)
    expect(after / 48_000).toBeLessThan(1.05 * releaseSeconds + 0.002)
  })

  test('make-up comes on top, also where nothing is turned down, and the reduction is told without it', () => {
    const compressor = new StereoCompressor({ ...SETTINGS, makeupDecibels: 6 })
    const soft = sine({ hz: 500, frames: 4_800, amplitude: decibelsToGain(-40) })
    inBlocks(compressor, soft, soft.slice())
    expect(20 * Math.log10(peakOf(soft))).toBeCloseTo(-34, 2)
    expect(compressor.reductionDecibels).toBe(0)
    const loud = Float32Array.from(steady(-4, 1), decibelsToGain)
    inBlocks(compressor, loud, loud.slice())
    expect(compressor.reductionDecibels).toBeCloseTo(12, 2)
  })

  test('after a reset it is as new', () => {
    const used = new StereoCompressor(SETTINGS)
    const loud = Float32Array.from(steady(-2, 0.5), decibelsToGain)
    inBlocks(used, loud.slice(), loud.slice())
    used.reset()
    const [one, other] = [loud.slice(0, 1_280), loud.slice(0, 1_280)]
    inBlocks(used, one, one.slice())
    inBlocks(new StereoCompressor(SETTINGS), other, other.slice())
    expect([...one]).toEqual([...other])
  })
})
