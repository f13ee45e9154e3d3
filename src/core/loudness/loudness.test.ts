import { expect, test } from '@jest/globals'
import { decibelsToGain } from '../audio/decibels'
import { concatMono, type Mono } from '../audio/frames'
import { sine } from '../audio/signals.test-kit'
import { LoudnessMeter, measureLoudness } from './loudness'

const tone = (dbfs: number, seconds: number) => sine({ hz: 1_000, frames: seconds * 48_000, amplitude: decibelsToGain(dbfs) })
const join = (...parts: Mono[]) => parts.reduce(concatMono)

test.each([-23, -33])('a stereo 1 kHz tone at %i dBFS reads its level in LUFS (EBU Tech 3341, cases 1 and 2)', dbfs => {
  const plane = tone(dbfs, 20)
  expect(Math.abs(measureLoudness([plane, plane]).integratedLufs - dbfs)).toBeLessThan(0.1)
})

test('quiet stretches are gated out (EBU Tech 3341, case 3)', () => {
  const plane = join(tone(-36, 10), tone(-23, 60), tone(-36, 10))
  expect(Math.abs(measureLoudness([plane, plane]).integratedLufs - -23)).toBeLessThan(0.1)
})

test('loud and soft halves join by power (EBU Tech 3341, case 5)', () => {
  const plane = join(tone(-26, 20), tone(-20, 20.1), tone(-26, 20))
  expect(Math.abs(measureLoudness([plane, plane]).integratedLufs - -23)).toBeLessThan(0.1)
})

test('far softer stretches, of which some lie under the absolute gate, are gated out (EBU Tech 3341, case 4)', () => {
  const plane = join(tone(-72, 10), tone(-36, 10), tone(-23, 60), tone(-36, 10), tone(-72, 10))
  expect(Math.abs(measureLoudness([plane, plane]).integratedLufs - -23)).toBeLessThan(0.1)
})

/** The weighting's gain, from the coefficients that stand in ITU-R BS.1770-4, tables 1 and 2. */
function weightingDecibels(hz: number): number {
  const w = (2 * Math.PI * hz) / 48_000
  const power = (b: number[], a: number[]) => {
    const at = (c: number[]) => c.reduce((sum, x, n) => sum + x * Math.cos(n * w), 0) ** 2 + c.reduce((sum, x, n) => sum + x * Math.sin(n * w), 0) ** 2
    return at(b) / at(a)
  }
  const shelf = power([1.53512485958697, -2.69169618940638, 1.19839281085285], [1, -1.69065929318241, 0.73248077421585])
  return 10 * Math.log10(shelf * power([1, -2, 1], [1, -1.99004745483398, 0.99007225036621]))
}

test.each([40, 100, 1_000, 3_000, 10_000, 16_000])('a tone at %d Hz counts by the standard’s weighting', hz => {
  const plane = sine({ hz, frames: 5 * 48_000, amplitude: decibelsToGain(-20) })
  const { integratedLufs } = measureLoudness([plane, plane])
  expect(integratedLufs).toBeCloseTo(-20 + weightingDecibels(hz) - 0.691, 1)
})

test('one channel is 3 dB softer than two of the same, and a meter may be fed in pieces of any length', () => {
  const plane = tone(-23, 5)
  const both = measureLoudness([plane, plane]).integratedLufs
  expect(both - measureLoudness([plane]).integratedLufs).toBeCloseTo(3.01, 2)
  const meter = new LoudnessMeter(2)
  for (let at = 0, size = 1; at < plane.length; at += size, size = (13 * size + 1) % 20_011) {
    const piece = plane.subarray(at, at + Math.max(1, size))
    size = Math.max(1, size)
    meter.push([piece, piece])
  }
  expect(meter.read().integratedLufs).toBeCloseTo(both, 6)
})

test('shorter than one block of 0.4 s there is no loudness, but a peak', () => {
  const plane = tone(-23, 0.39)
  expect(measureLoudness([plane]).integratedLufs).toBe(-Infinity)
  expect(measureLoudness([plane]).samplePeakDbfs).toBeCloseTo(-23, 2)
})

// Within +0.2 and -0.4 dB, as the standard allows.
test.each([
  [15, 4, 0, 0.5, -6],
  [16, 4, 45, 0.5, -6],
  [17, 6, 60, 0.5, -6],
  [18, 8, 67.5, 0.5, -6],
  [19, 4, 45, 1.41, 3],
])('a peak between the samples is found (EBU Tech 3341, case %d: 1/%d of the rate, %d degrees off)', (_, part, degrees, amplitude, dbtp) => {
  const plane = sine({ hz: 48_000 / part, frames: 48_000, amplitude, phase: (degrees * Math.PI) / 180 })
  // The tone fades in and out: a hard edge would have tops of its own.
  for (let i = 0; i < 4_800; i++) for (const at of [i, plane.length - 1 - i]) plane[at] *= i / 4_800
  const { truePeakDbtp } = measureLoudness([plane, plane])
  expect(truePeakDbtp).toBeGreaterThan(dbtp - 0.4)
  expect(truePeakDbtp).toBeLessThan(dbtp + 0.2)
})

test('silence has no loudness and no peak, and no NaN', () => {
  const silence = new Float32Array(48_000)
  expect(measureLoudness([silence])).toEqual({ integratedLufs: -Infinity, samplePeakDbfs: -Infinity, truePeakDbtp: -Infinity })
})
