import { describe, expect, test } from '@jest/globals'
import { decibelsBetween, sine } from '../audio/signals.test-kit'
import { StereoCompressor } from './compressor'
import { Press, USUAL_PRESS } from './press'

const FRAMES = 96_000
const silence = () => new Float32Array(FRAMES)
function pressed(press: Press, left: Float32Array, right = left, gain = 1): [Float32Array, Float32Array] {
  const out: [Float32Array, Float32Array] = [silence(), silence()]
  for (let at = 0; at < FRAMES; at += 128) {
    const [a, b, inLeft, inRight] = [out[0], out[1], left, right].map(plane => plane.subarray(at, at + 128))
    press.addInto(a!, b!, inLeft!, inRight!, gain)
  }
  return out
}
const levelOf = (plane: Float32Array) => 10 * Math.log10(2 * plane.subarray(-24_000).reduce((sum, x) => sum + x * x, 0)) - 10 * Math.log10(24_000)
const tone = (dbfs: number) => sine({ hz: 440, frames: FRAMES, amplitude: 10 ** (dbfs / 20) })

describe('voices pressed under themselves', () => {
  test('are what a compressor makes of them, with nothing of them beside it', () => {
    const sound = tone(-9)
    const [left, right] = [sound.slice(), sound.map(x => 0.5 * x)]
    const compressor = new StereoCompressor({ ...USUAL_PRESS, mixFraction: 1 })
    const wanted = [left.slice(), right.slice()]
    for (let at = 0; at < FRAMES; at += 128) compressor.process(wanted[0]!.subarray(at, at + 128), wanted[1]!.subarray(at, at + 128))
    const given = left.slice()
    const out = pressed(new Press(USUAL_PRESS), left, right)
    expect(decibelsBetween(out[0], wanted[0]!)).toBeLessThan(-120)
    expect(decibelsBetween(out[1], wanted[1]!)).toBeLessThan(-120)
    expect(left).toEqual(given)
  })

  test.each([
    // 6 dB of make-up; above -36 dBFS one in eight comes through.
    [-50, -44],
    [-12, -36 + 24 / 8 + 6],
    [-4, -36 + 32 / 8 + 6],
  ])('a tone of %d dBFS comes out at %d: soft ones up, loud ones held', (level, wanted) => {
    expect(levelOf(pressed(new Press(USUAL_PRESS), tone(level))[0])).toBeCloseTo(wanted, 0)
  })

  test('laid under a voice, bring its soft parts up by more than its loud ones', () => {
    const together = (level: number) => {
      const sound = tone(level)
      const [under] = pressed(new Press(USUAL_PRESS), sound, sound, 0.5)
      return levelOf(sound.map((x, i) => x + under[i]!)) - level
    }
    expect(together(-50)).toBeGreaterThan(4)
    expect(together(-6)).toBeLessThan(0.5)
  })
})
