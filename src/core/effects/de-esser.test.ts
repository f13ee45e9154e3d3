import { describe, expect, test } from '@jest/globals'
import { decibelsToGain, peakOf } from '../audio/decibels'
import { sine } from '../audio/signals.test-kit'
import { highPass, responseDecibels as filterDecibels, type BiquadCoefficients } from './biquad'
import { DE_ESSER_ATTACK_SECONDS, DE_ESSER_RELEASE_SECONDS, DeEsser, USUAL_DE_ESSER } from './de-esser'

const SETTINGS = { ...USUAL_DE_ESSER, frequencyHz: 5_000, thresholdDecibels: -30, rangeDecibels: 9 }

function through(deEsser: DeEsser, sound: Float32Array): Float32Array {
  const [left, right] = [sound.slice(), sound.slice()]
  for (let at = 0; at < left.length; at += 128) deEsser.process(left.subarray(at, at + 128), right.subarray(at, at + 128))
  return left
}

/** |1 - share H|, by the filter's coefficients on the unit circle. */
function responseDecibels({ b0, b1, b2, a1, a2 }: BiquadCoefficients, share: number, hz: number): number {
  const w = (2 * Math.PI * hz) / 48_000
  const at = (c0: number, c1: number, c2: number) => [c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w), -c1 * Math.sin(w) - c2 * Math.sin(2 * w)]
  const [denominator, numerator] = [at(1, a1, a2), at(1 - share * b0, a1 - share * b1, a2 - share * b2)]
  return 20 * Math.log10(Math.hypot(...(numerator as [number, number])) / Math.hypot(...(denominator as [number, number])))
}

describe('the de-esser', () => {
  test('a sound without hiss passes to the bit', () => {
    const vowel = sine({ hz: 220, frames: 24_000, amplitude: 0.5 })
    expect(through(new DeEsser(SETTINGS), vowel)).toEqual(vowel)
  })

  test.each([5_000, 7_000, 9_000, 14_000])('far too loud at %d Hz, the band is lowered by its range, as 1 - (1 - g) H has it', hz => {
    const ess = sine({ hz, frames: 48_000, amplitude: 0.7 })
    const gain = 20 * Math.log10(peakOf(through(new DeEsser(SETTINGS), ess).subarray(40_000)) / 0.7)
    expect(Math.abs(gain - responseDecibels(highPass(5_000), 1 - decibelsToGain(-9), hz))).toBeLessThan(0.1)
  })

  test('a little too loud, the band is brought to the threshold', () => {
    const ess = sine({ hz: 15_000, frames: 48_000, amplitude: decibelsToGain(-25) })
    const deEsser = new DeEsser(SETTINGS)
    const gain = 20 * Math.log10(peakOf(through(deEsser, ess).subarray(40_000))) + 25
    // The filter's own loss at 15 kHz leaves the band a little softer than the tone.
    const over = 5 + filterDecibels(highPass(5_000), 15_000)
    expect(Math.abs(deEsser.reductionDecibels - over)).toBeLessThan(0.2)
    expect(Math.abs(gain - responseDecibels(highPass(5_000), 1 - decibelsToGain(-over), 15_000))).toBeLessThan(0.2)
  })

  test('it comes within its attack and goes within its release', () => {
    const deEsser = new DeEsser(SETTINGS)
    const ess = sine({ hz: 12_000, frames: 9_600, amplitude: 0.7 })
    let seconds = 0
    for (let at = 0; deEsser.reductionDecibels < 9 * (1 - 1 / Math.E); at += 12, seconds += 12 / 48_000)
      deEsser.process(ess.subarray(at, at + 12), ess.slice(at, at + 12))
    // The band's own rise comes on top.
    expect(seconds).toBeLessThan(DE_ESSER_ATTACK_SECONDS + 0.0008)
    for (let at = 0; at < 9_600; at += 120) deEsser.process(ess.slice(at, at + 120), ess.slice(at, at + 120))
    seconds = 0
    for (; deEsser.reductionDecibels > 9 / Math.E; seconds += 12 / 48_000) deEsser.process(new Float32Array(12), new Float32Array(12))
    expect(Math.abs(seconds / DE_ESSER_RELEASE_SECONDS - 1)).toBeLessThan(0.1)
  })
})
