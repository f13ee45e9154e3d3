import { describe, expect, test } from '@jest/globals'
import { sine } from '../audio/signals.test-kit'
import { highPass, lowPass, responseDecibels } from './biquad'
import { Echo, USUAL_ECHO, type EchoSettings } from './echo'

const OPEN = { ...USUAL_ECHO, delaySeconds: 0.25, feedbackFraction: 0.5, highCutHz: 20_000, lowCutHz: 20 }

function answer(echo: Echo, left: Float32Array, right: Float32Array, seconds: number, change: (block: number) => void = () => {}): Float32Array[] {
  const frames = Math.ceil((seconds * 48_000) / 128) * 128
  const out = [new Float32Array(frames), new Float32Array(frames)]
  for (let at = 0; at < frames; at += 128) {
    change(at / 128)
    const block = (plane: Float32Array) => Float32Array.from({ length: 128 }, (_, i) => plane[at + i] ?? 0)
    echo.addInto(out[0].subarray(at, at + 128), out[1].subarray(at, at + 128), block(left), block(right), 1)
  }
  return out
}
const rms = (plane: Float32Array) => Math.sqrt(plane.reduce((sum, x) => sum + x * x, 0) / plane.length)
/** Tones that last a fifth of the time between two echoes, in the middle of their swell. */
const swell = (hz: number) => sine({ hz, frames: 9_600, amplitude: 0.5 }).map((x, i) => x * Math.sin((Math.PI * i) / 9_600) ** 2)
const echoLevel = (out: Float32Array, n: number, delaySeconds: number) =>
  rms(out.subarray(n * delaySeconds * 48_000 + 2_400, n * delaySeconds * 48_000 + 7_200))

describe('the echo', () => {
  test('repeats a click at its time and at its multiples', () => {
    const click = Float32Array.of(1)
    const [out] = answer(new Echo(OPEN), click, click, 1.2)
    expect(out.subarray(0, 12_000).every(x => x === 0)).toBe(true)
    for (const n of [1, 2, 3]) {
      const echo = out.subarray(n * 12_000, n * 12_000 + 480).map(Math.abs)
      expect(echo.indexOf(Math.max(...echo))).toBeLessThanOrEqual(2 * n)
    }
  })

  test.each([200, 1_000, 4_000])('each echo of %d Hz has passed its filters once more', hz => {
    const settings: EchoSettings = { ...OPEN, highCutHz: 3_000, lowCutHz: 300 }
    const [out] = answer(new Echo(settings), swell(hz), swell(hz), 1.4)
    const filters = responseDecibels(lowPass(3_000), hz) + responseDecibels(highPass(300), hz)
    const dry = rms(swell(hz).subarray(2_400, 7_200))
    expect(Math.abs(20 * Math.log10(echoLevel(out, 1, 0.25) / dry) - filters)).toBeLessThan(0.3)
    expect(Math.abs(20 * Math.log10(echoLevel(out, 3, 0.25) / echoLevel(out, 2, 0.25)) - filters - 20 * Math.log10(0.5))).toBeLessThan(0.4)
  })

  test('crossed over, what is sung on the left comes from the left, the right, and the left again', () => {
    const [left, right] = answer(new Echo({ ...OPEN, crossFraction: 1 }), swell(800), new Float32Array(0), 1.2)
    const isLeft = [1, 2, 3].map(n => echoLevel(left, n, 0.25) > 100 * echoLevel(right, n, 0.25))
    expect(isLeft).toEqual([true, false, true])
    expect(echoLevel(right, 2, 0.25)).toBeGreaterThan(100 * echoLevel(left, 2, 0.25))
  })

  test('another time is faded over to, without a step; the new time holds from there', () => {
    const tone = sine({ hz: 300, frames: 96_000, amplitude: 0.3 })
    const echo = new Echo({ ...OPEN, feedbackFraction: 0 })
    const [out] = answer(echo, tone, tone, 2, block => block === 300 && echo.set({ ...OPEN, feedbackFraction: 0, delaySeconds: 0.4 }))
    const swing = (plane: Float32Array) => plane.reduce((most, x, i) => (i === 0 ? most : Math.max(most, Math.abs(x - plane[i - 1]))), 0)
    expect(swing(out.subarray(36_000, 44_000))).toBeLessThan(1.5 * swing(out.subarray(20_000, 30_000)))
    const [fresh] = answer(new Echo({ ...OPEN, feedbackFraction: 0, delaySeconds: 0.4 }), tone, tone, 2)
    for (let i = 60_000; i < 90_000; i += 97) expect(out[i]).toBeCloseTo(fresh[i], 4)
  })
})
