import { describe, expect, test } from '@jest/globals'
import { decibelsToGain, peakOf } from '../audio/decibels'
import { decibelsBetween, sine } from '../audio/signals.test-kit'
import { Saturation, USUAL_SATURATION, type SaturationSettings } from './saturation'

const ALL = { ...USUAL_SATURATION, amountFraction: 1 }

/** With the delay taken off. */
function through(settings: SaturationSettings, sound: Float32Array): Float32Array {
  const saturation = new Saturation(settings)
  const left = new Float32Array(Math.ceil((sound.length + saturation.latencyFrames) / 128) * 128)
  left.set(sound)
  for (let at = 0; at < left.length; at += 128) saturation.process(left.subarray(at, at + 128), left.slice(at, at + 128))
  return left.slice(saturation.latencyFrames, saturation.latencyFrames + sound.length)
}

/** How strong a frequency is, in a whole number of its periods. */
function amplitudeAt(sound: Float32Array, hz: number): number {
  let [re, im] = [0, 0]
  sound.forEach((x, i) => {
    re += x * Math.cos((2 * Math.PI * hz * i) / 48_000)
    im += x * Math.sin((2 * Math.PI * hz * i) / 48_000)
  })
  return (2 * Math.hypot(re, im)) / sound.length
}

/** The n-th overtone of tanh(drive sin) / drive, by integration over a period. */
function overtone(n: number, amplitude: number, drive: number): number {
  let sum = 0
  for (let i = 0; i < 4_096; i++) {
    const phase = (2 * Math.PI * (i + 0.5)) / 4_096
    sum += (Math.tanh(drive * amplitude * Math.sin(phase)) / drive) * Math.sin(n * phase)
  }
  return Math.abs((2 * sum) / 4_096)
}

describe('saturation', () => {
  test.each([100, 1_000, 10_000, 18_000])('a soft tone of %d Hz passes as it is, at its place', hz => {
    const tone = sine({ hz, frames: 9_600, amplitude: 0.001 })
    const out = through({ ...ALL, driveDecibels: 0 }, tone)
    expect(20 * Math.log10(peakOf(out.subarray(2_400, 7_200)) / 0.001)).toBeCloseTo(0, 1)
    expect(decibelsBetween(out.slice(2_400, 7_200), tone.slice(2_400, 7_200))).toBeLessThan(-100)
  })

  test.each([
    [500, 6],
    [500, 18],
    [2_000, 12],
  ])('a loud tone of %d Hz, driven by %d dB, has the overtones of a hyperbolic tangent', (hz, driveDecibels) => {
    const out = through({ ...ALL, driveDecibels }, sine({ hz, frames: 24_000, amplitude: 0.7 })).subarray(4_800, 14_400)
    for (const n of [1, 3, 5, 7])
      expect(Math.abs(20 * Math.log10(amplitudeAt(out, n * hz) / overtone(n, 0.7, decibelsToGain(driveDecibels))))).toBeLessThan(0.1)
    for (const n of [2, 4]) expect(20 * Math.log10(amplitudeAt(out, n * hz))).toBeLessThan(-90)
  })

  test('overtones beyond half the rate do not fold down', () => {
    const out = through({ ...ALL, driveDecibels: 12 }, sine({ hz: 9_000, frames: 24_000, amplitude: 0.7 })).subarray(4_800, 14_400)
    // The third would be at 27 kHz and fold to 21, the fifth at 45 and fold to 3, the seventh at 63 and fold to 15.
    for (const hz of [3_000, 15_000]) expect(20 * Math.log10(amplitudeAt(out, hz) / 0.7)).toBeLessThan(-85)
  })

  test('nothing of it, it is the sound itself, only later; half of it is half of both', () => {
    const tone = sine({ hz: 700, frames: 9_600, amplitude: 0.8 })
    const bare = through({ ...ALL, amountFraction: 0, driveDecibels: 24 }, tone)
    expect(bare).toEqual(tone)
    const [all, half] = [1, 0.5].map(amountFraction => through({ ...ALL, amountFraction, driveDecibels: 24 }, tone))
    expect(
      decibelsBetween(
        half,
        all.map((x, i) => 0.5 * (x + tone[i])),
      ),
    ).toBeLessThan(-120)
  })

  test('driven to the end, no sample is above one over the drive by more than the filter rings', () => {
    const out = through({ ...ALL, driveDecibels: 36 }, sine({ hz: 60, frames: 24_000, amplitude: 1 }))
    expect(peakOf(out)).toBeLessThan(1.2 * decibelsToGain(-36))
  })
})
