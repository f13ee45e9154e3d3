import { expect, test } from '@jest/globals'
import { decibelsToGain, gainToDecibels, peakOf, powerToDecibels, rmsOf } from './decibels'
import { concatMono, framesToSeconds, mixToMono, secondsToFrames, type Planar } from './frames'
import { mixDown } from './mix-down'
import { gaussian, makeRandom } from './random'
import { sine } from './signals.test-kit'
import { median } from './statistics'
import { silenceUnsound } from './unsound'

test('decibels: 6.02 are twice the amplitude, 3.01 twice the power, nothing is -Infinity', () => {
  expect(decibelsToGain(6.0206)).toBeCloseTo(2, 5)
  expect(gainToDecibels(-0.5)).toBeCloseTo(-6.0206, 4)
  expect(powerToDecibels(2)).toBeCloseTo(3.0103, 4)
  expect([gainToDecibels(0), powerToDecibels(0), decibelsToGain(-Infinity)]).toEqual([-Infinity, -Infinity, 0])
})

test('a full-scale sine peaks at 1 and has the root mean square of a half; a stretch without frames has none', () => {
  const tone = sine({ hz: 1_000, frames: 4_800 })
  expect(peakOf(tone)).toBeCloseTo(1, 6)
  expect(rmsOf(tone)).toBeCloseTo(Math.SQRT1_2, 6)
  expect(rmsOf(tone, 48, 96)).toBeCloseTo(Math.SQRT1_2, 6)
  expect([peakOf(new Float32Array(0)), rmsOf(tone, 10, 10)]).toEqual([0, 0])
})

test.each([
  [[3], 3],
  [[9, 1, 5], 5],
  [[10, 9, 100, 1], 9.5],
  [[-1, -20, 3, 200], 1],
])('the middle of %p is %d: numbers are ordered as numbers', (values, middle) => expect(median(values)).toBe(middle))

test('of nothing there is no middle, and the list that was given stays as it was', () => {
  expect(median([])).toBeNaN()
  const values = [3, 1, 2]
  median(values)
  expect(values).toEqual([3, 1, 2])
})

test('frames and seconds are told apart by 48 000, to the nearest frame', () => {
  expect([secondsToFrames(1.5), secondsToFrames(0.00001), framesToSeconds(24_000)]).toEqual([72_000, 0, 0.5])
})

test('the mean of channels is one channel; a lone channel is given as it is', () => {
  const planes = [Float32Array.of(1, 0.5), Float32Array.of(0, 0.5), Float32Array.of(-1, 0.5)]
  expect([...mixToMono(planes)]).toEqual([0, 0.5])
  expect([...mixToMono(planes.slice(0, 2))]).toEqual([0.5, 0.5])
  expect(mixToMono(planes.slice(0, 1))).toBe(planes[0])
  expect([...concatMono(planes[0], planes[2])]).toEqual([1, 0.5, -1, 0.5])
})

// ITU-R BS.775: the centre to both sides and each surround to its own, 3 dB down; what only shakes the floor is left out.
test.each([
  ['a centre of three', 3, 2, [Math.SQRT1_2, Math.SQRT1_2]],
  ['the left surround of four', 4, 2, [Math.SQRT1_2, 0]],
  ['the centre of 5.1', 6, 2, [Math.SQRT1_2, Math.SQRT1_2]],
  ['the low channel of 5.1', 6, 3, [0, 0]],
  ['the right surround of 5.1', 6, 5, [0, Math.SQRT1_2]],
  ['the centre back of 6.1', 7, 4, [0.5, 0.5]],
  ['the left of 7.1', 8, 0, [1, 0]],
  ['the last of 7.1', 8, 7, [0, Math.SQRT1_2]],
])('%s comes out where it should', (_, channels, sounding, expected) => {
  const planes: Planar = Array.from({ length: channels }, (_channel, c) => Float32Array.of(c === sounding ? 1 : 0))
  mixDown(planes).forEach((plane, side) => expect(plane[0]).toBeCloseTo(expected[side], 6))
})

test('one channel and two are themselves; of a layout that nobody knows the first two are taken', () => {
  const planes: Planar = Array.from({ length: 9 }, (_, c) => Float32Array.of(c))
  expect(mixDown(planes.slice(0, 2))).toEqual(planes.slice(0, 2))
  expect(mixDown(planes).map(([sample]) => sample)).toEqual([0, 1])
})

test('what is no number, or beyond any level, is silenced and counted; the loudest real sound stays', () => {
  const plane = Float32Array.of(0.5, NaN, Infinity, -Infinity, 1e30, -1_000, 999)
  expect(silenceUnsound(plane)).toBe(4)
  expect([...plane]).toEqual([0.5, 0, 0, 0, 0, -1_000, 999])
})

test('random numbers are the same for the same seed, spread evenly, and normal ones normally', () => {
  const [one, other] = [makeRandom(7), makeRandom(7)]
  const numbers = Array.from({ length: 20_000 }, one)
  expect(Array.from({ length: 20_000 }, other)).toEqual(numbers)
  expect(makeRandom(8)()).not.toBe(numbers[0])
  for (let tenth = 0; tenth < 10; tenth++) {
    const share = numbers.filter(x => x >= tenth / 10 && x < (tenth + 1) / 10).length / 20_000
    // Four deviations of a binomial share.
    expect(Math.abs(share - 0.1)).toBeLessThan(0.0085)
  }
  const random = makeRandom(3)
  const normal = Array.from({ length: 20_000 }, () => gaussian(random))
  const share = (within: number) => normal.filter(x => Math.abs(x) < within).length / 20_000
  expect(share(1)).toBeCloseTo(0.6827, 1)
  expect(share(2)).toBeCloseTo(0.9545, 1)
  expect(normal.every(Number.isFinite)).toBe(true)
})
