import { expect, test } from '@jest/globals'
import { AllPass } from './all-pass'

/** |H| at a frequency, by the sum of the impulse response. */
function responseDecibels(impulse: Float32Array, hz: number): number {
  let [re, im] = [0, 0]
  impulse.forEach((x, i) => {
    re += x * Math.cos((2 * Math.PI * hz * i) / 48_000)
    im += x * Math.sin((2 * Math.PI * hz * i) / 48_000)
  })
  return 20 * Math.log10(Math.hypot(re, im))
}

test.each([
  [149, 0.75],
  [379, 0.625],
])('over %d frames it lets every frequency through as loud as it came, and spreads it', (frames, gain) => {
  const impulse = new Float32Array(48_000)
  impulse[0] = 1
  const filter = new AllPass(frames, gain)
  for (let at = 0, size = 1; at < impulse.length; at += size, size = 1 + ((7 * size + 3) % 128)) filter.process(impulse.subarray(at, at + size))
  for (const hz of [40, 333, 1_000, 5_050, 17_000]) expect(Math.abs(responseDecibels(impulse, hz))).toBeLessThan(0.001)
  expect(impulse[0]).toBeCloseTo(-gain, 6)
  expect(impulse[frames]).toBeCloseTo(1 - gain ** 2, 6)
  expect(impulse[2 * frames]).toBeCloseTo(gain * (1 - gain ** 2), 6)
})
