import { describe, expect, test } from '@jest/globals'
import { peakOf } from '../audio/decibels'
import { decibelsBetween } from '../audio/signals.test-kit'
import { layerOf, lineRange } from '../song/song.test-kit'
import { setLayerMix } from './commands'
import { bare, offline, sung } from './mix.test-kit'
import { planMix } from './plan'
import { SmallSpeaker } from './small-speaker'

const base = sung()
const lead = layerOf(base, 'Lead')
const INSIDE = { startFrame: lineRange(0).startFrame + 9_600, endFrame: lineRange(0).startFrame + 57_600 }

describe('out of a small loudspeaker', () => {
  test('there is one channel without lows; what is delivered is as it was', async () => {
    const song = bare(setLayerMix(base, { layerId: lead, pan: -1 }))
    const small = await offline(planMix(song, { kind: 'song' }, undefined, { isSmall: true }), INSIDE)
    expect(decibelsBetween(small[0], small[1])).toBe(-Infinity)
    const speaker = new SmallSpeaker(true)
    const level = (hz: number) => {
      const [left, right] = [0, 1].map(() => Float32Array.from({ length: 188 * 128 }, (_, i) => Math.sin((2 * Math.PI * hz * i) / 48_000)))
      for (let at = 0; at < left.length; at += 128) speaker.process(left.subarray(at, at + 128), right.subarray(at, at + 128))
      return 20 * Math.log10(peakOf(left.subarray(12_000)))
    }
    expect(level(60)).toBeLessThan(-50)
    expect(Math.abs(level(1_500))).toBeLessThan(0.5)
    expect(level(300)).toBeCloseTo(-3, 0)
  })
})
