/** Cuts, the dynamic band, width, wash and limiter, each against its formula. */
import { describe, expect, test } from '@jest/globals'
import { decibelsToGain, peakOf } from '../audio/decibels'
import { gaussian, makeRandom } from '../audio/random'
import { decibelsBetween, sine } from '../audio/signals.test-kit'
import { TruePeakMeter } from '../loudness/true-peak'
import { DynamicBand, USUAL_DYNAMIC_BAND } from './dynamic-band'
import type { Effect } from './effect'
import { HighCut, LowCut } from './filters'
import { Limiter } from './limiter'
import { USUAL_WASH, Wash } from './wash'
import { Width } from './width'

function through<S>(effect: Effect<S>, left: Float32Array, right = left.slice()): [Float32Array, Float32Array] {
  const out: [Float32Array, Float32Array] = [left.slice(), right.slice()]
  for (let at = 0; at < left.length; at += 128) effect.process(out[0].subarray(at, at + 128), out[1].subarray(at, at + 128))
  return out
}
const levelAt = <S>(effect: Effect<S>, hz: number, amplitude = 0.25) =>
  20 * Math.log10((Math.SQRT2 * rms(through(effect, sine({ hz, frames: 48_000, amplitude }))[0].subarray(24_000))) / amplitude)
const rms = (sound: Float32Array) => Math.sqrt(sound.reduce((sum, x) => sum + x * x, 0) / sound.length)

describe.each([12, 24])('a cut of %d dB an octave', slopeDecibels => {
  const order = slopeDecibels / 6
  /** Butterworth's magnitude over the warped frequencies that a bilinear filter has. */
  const butterworth = (hz: number, cutoffHz: number, isHighPass: boolean) => {
    const ratio = Math.tan((Math.PI * hz) / 48_000) / Math.tan((Math.PI * cutoffHz) / 48_000)
    return -10 * Math.log10(1 + (isHighPass ? 1 / ratio : ratio) ** (2 * order))
  }
  test.each([50, 100, 200, 400, 1_000])('below 200 Hz: %d Hz within a tenth of a decibel', hz => {
    expect(Math.abs(levelAt(new LowCut({ cutoffHz: 200, slopeDecibels }), hz) - butterworth(hz, 200, true))).toBeLessThan(0.1)
  })
  test.each([1_000, 3_000, 5_000, 8_000, 12_000])('above 5 kHz: %d Hz within a tenth of a decibel', hz => {
    expect(Math.abs(levelAt(new HighCut({ cutoffHz: 5_000, slopeDecibels }), hz) - butterworth(hz, 5_000, false))).toBeLessThan(0.1)
  })
})

test('a cut that becomes steeper while it sounds, and gentle again, does so without a step', () => {
  const tone = sine({ hz: 150, frames: 96_000, amplitude: 0.5 })
  const cut = new LowCut({ cutoffHz: 200, slopeDecibels: 12 })
  const out = tone.slice()
  for (let at = 0; at < out.length; at += 128) {
    if (at === 128 * 250) cut.set({ cutoffHz: 200, slopeDecibels: 24 })
    if (at === 128 * 500) cut.set({ cutoffHz: 200, slopeDecibels: 12 })
    cut.process(out.subarray(at, at + 128), out.slice(at, at + 128))
  }
  const steps = out.map((x, i) => (i === 0 ? 0 : Math.abs(x - out[i - 1])))
  expect(peakOf(steps.subarray(9_600))).toBeLessThan(1.1 * peakOf(steps.subarray(9_600, 24_000)))
})

describe('the dynamic band', () => {
  const settings = { ...USUAL_DYNAMIC_BAND, frequencyHz: 1_000, bandQ: 1, thresholdDecibels: -30, rangeDecibels: 9 }
  test('what is soft passes to the bit', () => {
    const soft = sine({ hz: 1_000, frames: 24_000, amplitude: decibelsToGain(-40) })
    expect(decibelsBetween(through(new DynamicBand(settings), soft)[0], soft)).toBe(-Infinity)
  })
  test.each([
    [-6, -9],
    [-25, -5],
  ])('a tone of %d dBFS in its middle is lowered by %d dB', (level, by) => {
    expect(levelAt(new DynamicBand(settings), 1_000, decibelsToGain(level))).toBeCloseTo(by, 1)
  })
  test('three octaves away it leaves a loud tone as it is, within a quarter of a decibel', () => {
    for (const hz of [125, 8_000]) expect(Math.abs(levelAt(new DynamicBand({ ...settings, thresholdDecibels: -10 }), hz, 0.5))).toBeLessThan(0.25)
  })
})

describe('width', () => {
  const random = makeRandom(4)
  const noise = () => Float32Array.from({ length: 24_000 }, () => 0.2 * gaussian(random))
  const [left, right] = [noise(), noise()]
  const sideOf = ([l, r]: [Float32Array, Float32Array]) => l.map((x, i) => 0.5 * (x - r[i]))
  const middleOf = ([l, r]: [Float32Array, Float32Array]) => l.map((x, i) => 0.5 * (x + r[i]))
  test.each([0, 0.5, 2])('of %d: the difference is so much, the sum is what it was', widthFraction => {
    const out = through(new Width({ widthFraction, middleBelowHz: 20 }), left, right)
    expect(
      decibelsBetween(
        sideOf(out),
        sideOf([left, right]).map(x => widthFraction * x),
      ),
    ).toBeLessThan(-120)
    expect(decibelsBetween(middleOf(out), middleOf([left, right]))).toBeLessThan(-120)
  })
  test('its low end is in the middle: a tone below it on one side comes out on both, above it stays', () => {
    const silent = new Float32Array(48_000)
    const balance = (hz: number) => {
      const out = through(new Width({ widthFraction: 1, middleBelowHz: 200 }), sine({ hz, frames: 48_000, amplitude: 0.5 }), silent)
      return 20 * Math.log10(peakOf(out[0].subarray(24_000)) / peakOf(out[1].subarray(24_000)))
    }
    expect(Math.abs(balance(30))).toBeLessThan(1)
    expect(balance(3_000)).toBeGreaterThan(25)
  })
})

describe('the wash', () => {
  const opened = (wash: Wash) => {
    wash.reset()
    return wash
  }
  const click = new Float32Array(96_000)
  click[0] = 1
  test('nothing of it is the sound to the bit, all of it is the hall alone', () => {
    expect(decibelsBetween(through(new Wash({ ...USUAL_WASH, mixFraction: 0 }), click)[0], click)).toBe(-Infinity)
    const [wet] = through(opened(new Wash({ ...USUAL_WASH, mixFraction: 1 })), click)
    expect(wet[0]).toBe(0)
    expect(peakOf(wet)).toBeGreaterThan(0.001)
  })
})

describe('the limiter', () => {
  test.each([-24, -6, -1])('lets nothing above %d dBFS between the samples either, and leaves what is softer as it is, a block later', ceilingDbfs => {
    const random = makeRandom(7)
    const loud = Float32Array.from({ length: 48_000 }, (_, i) => (i % 9_600 < 4_800 ? 0.9 : 0.02) * gaussian(random))
    const out = through(new Limiter({ ceilingDbfs }), loud)
    const meter = new TruePeakMeter()
    meter.push(out[0])
    expect(20 * Math.log10(meter.peak)).toBeLessThan(ceilingDbfs + 0.1)
    const soft = sine({ hz: 440, frames: 9_600, amplitude: 0.5 * decibelsToGain(ceilingDbfs) })
    expect(decibelsBetween(through(new Limiter({ ceilingDbfs }), soft)[0].slice(128), soft.slice(0, -128))).toBe(-Infinity)
  })
})
