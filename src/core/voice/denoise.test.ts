import { describe, expect, test } from '@jest/globals'
import type { Mono } from '../audio/frames'
import { gaussian, makeRandom } from '../audio/random'
import { withoutNoise } from './denoise'

const RATE = 24_000
/** A tone of ten harmonics from 1 s to 2 s of 3 s. */
const voice = Float32Array.from({ length: 3 * RATE }, (_, i) => {
  if (i < RATE || i >= 2 * RATE) return 0
  let sample = 0
  for (let n = 1; n <= 10; n++) sample += Math.sin((2 * Math.PI * 190 * n * i) / RATE) / n
  return 0.1 * sample
})
const rests = [
  { from: 0, to: RATE - 1_200 },
  { from: 2 * RATE + 1_200, to: 3 * RATE },
]
const with_ = (noise: (i: number) => number): Mono => voice.map((sample, i) => sample + noise(i))
const powerIn = (sound: Mono, from: number, to: number) =>
  sound.subarray(from * RATE, to * RATE).reduce((sum, sample) => sum + sample * sample, 0) / (to - from)
const decibels = (a: number, b: number) => 10 * Math.log10(a / b)

describe('noise that goes on through a take', () => {
  const random = makeRandom(8)
  const hiss = Float32Array.from({ length: voice.length }, () => 0.03 * gaussian(random))
  const hum = (i: number) => 0.03 * Math.sin((2 * Math.PI * 50 * i) / RATE) + 0.02 * Math.sin((2 * Math.PI * 250 * i) / RATE)
  test.each<[string, (i: number) => number]>([
    ['hiss', i => hiss[i]],
    ['hum', hum],
  ])('%s is taken down in the rests, and what is sung stays as it is', (_, noise) => {
    const noisy = with_(noise)
    const cleaned = withoutNoise(noisy, rests)
    expect(cleaned).toHaveLength(noisy.length)
    for (const [from, to] of [
      [0.2, 0.9],
      [2.2, 2.9],
    ])
      expect(decibels(powerIn(cleaned, from, to), powerIn(noisy, from, to))).toBeLessThan(-17)
    expect(Math.abs(decibels(powerIn(cleaned, 1.2, 1.8), powerIn(voice, 1.2, 1.8)))).toBeLessThan(0.7)
    // What is left beside the voice is less than there was.
    const left = (sound: Mono) => powerIn(sound.map((sample, i) => sample - voice[i]) as Mono, 1.2, 1.8)
    expect(decibels(left(cleaned), left(noisy))).toBeLessThan(-5)
  })
  test('without a rest to know it by, the take comes back as it is', () => {
    const noisy = with_(i => hiss[i])
    expect(withoutNoise(noisy, [])).toBe(noisy)
    expect(withoutNoise(noisy, [{ from: 0, to: 600 }])).toBe(noisy)
    expect(withoutNoise(new Float32Array(0), [])).toHaveLength(0)
  })
})
