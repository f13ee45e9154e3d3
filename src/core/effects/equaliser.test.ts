import { describe, expect, test } from '@jest/globals'
import { sine } from '../audio/signals.test-kit'
import { bell, lowShelf, responseDecibels } from './biquad'
import { Equaliser, FLAT_EQUALISER, type EqualiserSettings } from './equaliser'

/** An analogue bell after the bilinear transform: |(s² + s A/Q + 1) / (s² + s/(A Q) + 1)| where s = j tan / tan. */
function bellDecibels(hz: number, centreHz: number, gainDecibels: number, q: number): number {
  const s = Math.tan((Math.PI * hz) / 48_000) / Math.tan((Math.PI * centreHz) / 48_000)
  const a = 10 ** (gainDecibels / 40)
  return 10 * Math.log10(((1 - s * s) ** 2 + ((s * a) / q) ** 2) / ((1 - s * s) ** 2 + (s / (a * q)) ** 2))
}

/** The level of a steady tone through the effect, against the level that goes in. */
function measuredDecibels(settings: EqualiserSettings, hz: number): number {
  const equaliser = new Equaliser(settings)
  const tone = sine({ hz, frames: 48_000, amplitude: 0.1 })
  for (let at = 0; at < tone.length; at += 128) equaliser.process(tone.subarray(at, at + 128), new Float32Array(Math.min(128, tone.length - at)))
  const last = tone.subarray(24_000)
  return 10 * Math.log10(last.reduce((sum, x) => sum + x * x, 0) / last.length / (0.01 / 2))
}

describe('the bands', () => {
  test.each([
    [400, 6, 1],
    [3_000, -12, 0.5],
    [9_000, 18, 8],
  ])('a bell at %d Hz of %d dB and q %d has the analogue one’s response', (centreHz, gainDecibels, q) => {
    for (const hz of [30, 200, 400, 1_000, 3_000, 8_000, 9_000, 18_000])
      expect(responseDecibels(bell(centreHz, gainDecibels, q), hz)).toBeCloseTo(bellDecibels(hz, centreHz, gainDecibels, q), 6)
  })

  test.each([-12, 3, 15])('a low shelf of %d dB has all of it below, half at its corner, nothing above', gainDecibels => {
    const shelf = lowShelf(300, gainDecibels)
    expect(responseDecibels(shelf, 1)).toBeCloseTo(gainDecibels, 2)
    expect(responseDecibels(shelf, 300)).toBeCloseTo(gainDecibels / 2, 3)
    expect(responseDecibels(shelf, 23_900)).toBeCloseTo(0, 3)
  })
})

describe('the equaliser', () => {
  test('flat, it changes nothing that could be heard', () => {
    for (const hz of [40, 400, 4_000, 16_000]) expect(Math.abs(measuredDecibels(FLAT_EQUALISER, hz))).toBeLessThan(0.001)
  })

  test('its bands add up, at every frequency', () => {
    const settings = { ...FLAT_EQUALISER, lowShelfDecibels: -6, lowBellDecibels: 4, highBellDecibels: -8, highBellQ: 3, highShelfDecibels: 5 }
    for (const hz of [50, 150, 400, 1_000, 3_000, 9_000, 15_000]) {
      const alone = (Object.keys(settings) as (keyof EqualiserSettings)[])
        .filter(name => name.endsWith('Decibels'))
        .reduce(
          (sum, name) =>
            sum +
            measuredDecibels({ ...settings, lowShelfDecibels: 0, lowBellDecibels: 0, highBellDecibels: 0, highShelfDecibels: 0, [name]: settings[name] }, hz),
          0,
        )
      expect(Math.abs(measuredDecibels(settings, hz) - alone)).toBeLessThan(0.05)
    }
  })
})
