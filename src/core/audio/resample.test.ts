import { expect, test } from '@jest/globals'
import { Resampler, resample } from './resample'
import { decibelsBetween, sine } from './signals.test-kit'

/** Amplitude of one frequency in the steady middle of a signal. */
function amplitudeAt(signal: Float32Array, hz: number, rateHz: number): number {
  let re = 0
  let im = 0
  let weights = 0
  for (let i = 4_000; i < signal.length - 4_000; i++) {
    const w = 0.5 - 0.5 * Math.cos((2 * Math.PI * (i - 4_000)) / (signal.length - 8_000))
    re += w * signal[i] * Math.cos((2 * Math.PI * hz * i) / rateHz)
    im += w * signal[i] * Math.sin((2 * Math.PI * hz * i) / rateHz)
    weights += w
  }
  return (2 * Math.hypot(re, im)) / weights
}

test.each([
  [44_100, 1_000],
  [44_100, 19_000],
  [96_000, 18_000],
  [8_000, 3_000],
  [22_050, 440],
])('a tone from %i Hz keeps its level and its place in time at %i Hz', (rateHz, hz) => {
  const output = resample(sine({ hz, sampleRateHz: rateHz, frames: rateHz, amplitude: 0.5 }), rateHz, 48_000)
  expect(output.length).toBe(48_000)
  const expected = sine({ hz, sampleRateHz: 48_000, frames: 48_000, amplitude: 0.5 })
  let worst = 0
  for (let i = 4_000; i < 44_000; i++) worst = Math.max(worst, Math.abs(output[i] - expected[i]))
  expect(20 * Math.log10(worst / 0.5)).toBeLessThan(-85)
})

test('what lies above the new half rate is gone by more than 100 dB', () => {
  const down = resample(sine({ hz: 30_000, sampleRateHz: 96_000, frames: 96_000, amplitude: 1 }), 96_000, 48_000)
  expect(20 * Math.log10(amplitudeAt(down, 18_000, 48_000))).toBeLessThan(-100)
})

test('no image of a tone appears above the old half rate', () => {
  const up = resample(sine({ hz: 20_000, sampleRateHz: 44_100, frames: 44_100, amplitude: 1 }), 44_100, 48_000)
  // The image of 20 kHz about 22.05 kHz lies at 24.1 kHz and would come back at 23.9 kHz.
  expect(20 * Math.log10(amplitudeAt(up, 23_900, 48_000))).toBeLessThan(-100)
})

test('chunks of any length give the same samples as the whole', () => {
  const signal = sine({ hz: 997, sampleRateHz: 44_100, frames: 10_000, amplitude: 0.8 })
  const whole = resample(signal, 44_100, 48_000)
  const resampler = new Resampler(44_100, 48_000, 1)
  const pieces: number[] = []
  for (let at = 0, size = 1; at < signal.length; at += size, size = (size * 7) % 1_013 || 1) pieces.push(...resampler.push([signal.slice(at, at + size)])[0])
  pieces.push(...resampler.flush()[0])
  expect(decibelsBetween(Float32Array.from(pieces), whole)).toBe(-Infinity)
})

test('two channels are each what they would be alone', () => {
  const [left, right] = [997, 4_003].map(hz => sine({ hz, sampleRateHz: 44_100, frames: 20_000, amplitude: 0.8 }))
  const resampler = new Resampler(44_100, 48_000, 2)
  const head = resampler.push([left, right]).map(plane => plane.slice())
  const tail = resampler.flush()
  ;[left, right].forEach((signal, c) =>
    expect(decibelsBetween(Float32Array.from([...head[c], ...tail[c]]), resample(signal, 44_100, 48_000))).toBeLessThan(-120),
  )
})

test('a rate that is no whole number is refused by name', () => {
  expect(() => new Resampler(44_100.5, 48_000, 1)).toThrow(/44100.5/)
})
