import { describe, expect, test } from '@jest/globals'
import { gaussian, makeRandom } from '../audio/random'
import { sine } from '../audio/signals.test-kit'
import { integratedLufs } from './loudness'
import { RunningLoudness } from './running'

function heard(left: Float32Array, right = left): RunningLoudness {
  const meter = new RunningLoudness()
  for (let at = 0; at + 128 <= left.length; at += 128) meter.push(left.subarray(at, at + 128), right.subarray(at, at + 128))
  return meter
}

describe('loudness as it goes', () => {
  test('a tone of -23 dBFS on both sides is -23 LUFS, by the standard’s own example', () => {
    const meter = heard(sine({ hz: 1_000, frames: 4 * 48_000, amplitude: 10 ** (-23 / 20) }))
    for (const lufs of [meter.momentaryLufs, meter.shortTermLufs, meter.integratedLufs]) expect(lufs).toBeCloseTo(-23, 1)
  })

  test('what got louder a second ago is known at once as a moment, and by a third in three seconds', () => {
    const tone = sine({ hz: 1_000, frames: 4 * 48_000, amplitude: 0.1 }).map((x, i) => (i < 3 * 48_000 ? 0.01 * x : x))
    const meter = heard(tone)
    expect(meter.momentaryLufs).toBeCloseTo(-20, 1)
    expect(meter.shortTermLufs).toBeCloseTo(-20 - 10 * Math.log10(3), 1)
  })

  test.each([1, 2, 3])('since it began it is what the gated measure says of the whole (%d)', seed => {
    const random = makeRandom(seed)
    const level = [0.3, 0.02, 0.1, 0.0001, 0.2, 0.05]
    const sound = Float32Array.from({ length: 12 * 48_000 }, (_, i) => level[Math.floor(i / 96_000)] * gaussian(random))
    expect(heard(sound).integratedLufs).toBeCloseTo(integratedLufs([sound, sound]), 0)
    expect(Math.abs(heard(sound).integratedLufs - integratedLufs([sound, sound]))).toBeLessThan(0.2)
  })

  test('in mono a sound in the middle loses nothing, one on a side 3 dB, opposite waves everything', () => {
    const tone = sine({ hz: 300, frames: 4 * 48_000, amplitude: 0.2 })
    expect(heard(tone).monoLossDecibels).toBeCloseTo(0, 2)
    expect(heard(tone, new Float32Array(tone.length)).monoLossDecibels).toBeCloseTo(-3.01, 1)
    expect(
      heard(
        tone,
        tone.map(x => -x),
      ).monoLossDecibels,
    ).toBeLessThan(-50)
  })

  test('of silence there is none, and after a reset it is as new', () => {
    const meter = heard(sine({ hz: 300, frames: 48_000, amplitude: 0.2 }))
    meter.reset()
    expect([meter.momentaryLufs, meter.shortTermLufs, meter.integratedLufs]).toEqual([-Infinity, -Infinity, -Infinity])
  })
})
