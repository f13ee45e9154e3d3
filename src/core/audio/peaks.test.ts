import { expect, test } from '@jest/globals'
import { levelFor, makePeaks, PEAK_LEVEL_FRAMES, PeaksBuilder } from './peaks'
import { makeRandom } from './random'

const random = makeRandom(11)
const sides = [0, 1].map(() => Float32Array.from({ length: 100_000 }, (_, i) => (random() - 0.5) * (i / 100_000)))

test('every level holds the largest sample and the mean power of its bins, whatever pieces the sound came in', () => {
  const builder = new PeaksBuilder()
  for (let at = 0; at < 100_000; at += 7_001) builder.push(sides.map(plane => plane.subarray(at, at + 7_001)))
  const peaks = builder.finish()
  expect(peaks.frames).toBe(100_000)
  expect(peaks).toEqual(makePeaks(sides))
  for (const { binFrames, peak, rms } of peaks.levels) {
    const bin = 3
    const stretch = sides.map(plane => plane.slice(bin * binFrames, (bin + 1) * binFrames))
    expect(peak[bin]).toBeCloseTo(Math.max(...stretch.map(plane => plane.reduce((most, x) => Math.max(most, Math.abs(x)), 0))), 6)
    expect(rms[bin]).toBeCloseTo(Math.sqrt(stretch.reduce((sum, plane) => sum + plane.reduce((power, x) => power + x * x, 0), 0) / (2 * binFrames)), 5)
  }
})

test('the coarsest level can be had piece by piece while the sound arrives, each bin once', () => {
  const builder = new PeaksBuilder()
  const told: number[] = []
  for (let at = 0; at < 100_000; at += 9_600) {
    builder.push(sides.map(plane => plane.subarray(at, at + 9_600)))
    told.push(...builder.coarsest(told.length).peak)
  }
  const whole = builder.finish().levels.at(-1)!
  const binFrames = PEAK_LEVEL_FRAMES.at(-1)!
  expect(told).toHaveLength(Math.floor(100_000 / binFrames))
  expect(told).toEqual([...whole.peak].slice(0, told.length))
})

test('the level that is drawn is the coarsest whose bins fit into a pixel', () => {
  const peaks = makePeaks(sides)
  expect([50, 128, 600, 3_000, 90_000].map(framesPerPixel => levelFor(peaks, framesPerPixel).binFrames)).toEqual([128, 128, 512, 2_048, 8_192])
})
