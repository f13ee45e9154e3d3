import { describe, expect, test } from '@jest/globals'
import { decibelsToGain, peakOf } from '../audio/decibels'
import type { Mono } from '../audio/frames'
import { makeRandom } from '../audio/random'
import { decibelsBetween, sine } from '../audio/signals.test-kit'
import { TruePeakMeter } from '../loudness/true-peak'
import { Ceiling, CEILING_LATENCY_FRAMES } from './ceiling'

function run(ceiling: Ceiling, left: Mono, right = left.slice(), size = 128): [Mono, Mono] {
  const out: [Mono, Mono] = [left.slice(), right.slice()]
  for (let at = 0; at < left.length; at += size) ceiling.process(out[0].subarray(at, at + size), out[1].subarray(at, at + size))
  return out
}

function truePeakDbtp(plane: Mono): number {
  const meter = new TruePeakMeter()
  meter.push(plane, 0)
  return 20 * Math.log10(Math.max(meter.peak, peakOf(plane)))
}

const noise = (seed: number, frames: number, level: number): Mono => {
  const random = makeRandom(seed)
  return Float32Array.from({ length: frames }, () => level * (2 * random() - 1))
}

/** Sounds whose tops lie between the samples, or come out of nowhere. */
const HARD: [string, Mono][] = [
  ['noise 12 dB too loud', noise(1, 24_000, 4)],
  ['a quarter of the rate, 45 degrees off', sine({ hz: 12_000, frames: 9_600, amplitude: 2, phase: Math.PI / 4 })],
  ['a sixth of the rate, 60 degrees off', sine({ hz: 8_000, frames: 9_600, amplitude: 1.4, phase: Math.PI / 3 })],
  ['a voice’s tone that swells', Float32Array.from(sine({ hz: 230, frames: 48_000, amplitude: 1 }), (x, i) => (x * 3 * i) / 48_000)],
  ['single clicks in silence', Float32Array.from({ length: 9_600 }, (_, i) => (i % 1_111 === 0 ? 5 : 0))],
  ['full scale up and down', Float32Array.from({ length: 9_600 }, (_, i) => (i % 14 < 7 ? 1.5 : -1.5))],
]

describe('the ceiling', () => {
  test.each(HARD)('%s: no sample passes it, and what lies between samples by no more than 0.1 dB', (_, sound) => {
    for (const dbtp of [-0.3, -1, -6]) {
      const [left] = run(new Ceiling(decibelsToGain(dbtp)), sound)
      expect(20 * Math.log10(peakOf(left))).toBeLessThanOrEqual(dbtp + 1e-5)
      expect(truePeakDbtp(left)).toBeLessThan(dbtp + 0.1)
    }
  })

  test('what stays below comes out bit by bit, as late as it says, in blocks of any length', () => {
    const soft = sine({ hz: 100, frames: 9_600, amplitude: 0.89 })
    for (const size of [1, 37, 128, 9_600]) {
      const [left, right] = run(
        new Ceiling(decibelsToGain(-1)),
        soft,
        soft.map(x => -x),
        size,
      )
      const late = CEILING_LATENCY_FRAMES
      expect(decibelsBetween(left.subarray(late), soft.subarray(0, -late))).toBe(-Infinity)
      expect(
        decibelsBetween(
          right.subarray(late),
          soft.subarray(0, -late).map(x => -x),
        ),
      ).toBe(-Infinity)
    }
  })

  test('both sides are turned down together, so that nothing moves between them', () => {
    const loud = noise(2, 9_600, 3)
    const [left, right] = run(
      new Ceiling(0.8),
      loud,
      loud.map(x => x / 8),
    )
    for (let i = 0; i < left.length; i++) expect(right[i]).toBeCloseTo(left[i] / 8, 6)
  })

  test('after a top the gain is back within a third of a second, and then nothing is changed any more', () => {
    const tone = sine({ hz: 300, frames: 3 * 48_000, amplitude: 0.3 })
    for (let i = 4_800; i < 9_600; i++) tone[i] *= 10
    const ceiling = new Ceiling(0.9)
    const [left] = run(ceiling, tone)
    const gainAt = (frame: number) => peakOf(left.subarray(frame, frame + 480)) / 0.3
    expect(gainAt(9_600 + 480)).toBeLessThan(0.5)
    expect(20 * Math.log10(gainAt(9_600 + 16_000))).toBeGreaterThan(-0.2)
    expect(decibelsBetween(left.subarray(2 * 48_000 + CEILING_LATENCY_FRAMES), tone.subarray(2 * 48_000, -CEILING_LATENCY_FRAMES))).toBe(-Infinity)
    expect(ceiling.reductionDecibels).toBe(0)
  })

  test('changed while sound runs, it is reached without a step', () => {
    const ceiling = new Ceiling(0.9)
    const tone = sine({ hz: 200, frames: 48_000, amplitude: 0.85 })
    const [before] = run(ceiling, tone.slice(0, 24_000))
    ceiling.set(0.4)
    const [after] = run(ceiling, tone.slice(24_000))
    const whole = Float32Array.of(...before, ...after)
    let largest = 0
    for (let i = 1; i < whole.length; i++) largest = Math.max(largest, Math.abs(whole[i] - whole[i - 1]))
    expect(largest).toBeLessThan(1.5 * 0.85 * 2 * Math.sin((Math.PI * 200) / 48_000))
    expect(peakOf(whole.subarray(30_000))).toBeLessThanOrEqual(0.4 + 1e-6)
    expect(ceiling.reductionDecibels).toBeCloseTo(20 * Math.log10(0.85 / 0.4), 0)
  })

  test('after a reset it is as new', () => {
    const used = new Ceiling(0.5)
    run(used, noise(3, 5_000, 2))
    used.reset()
    const next = noise(4, 2_000, 2)
    expect(run(used, next)).toEqual(run(new Ceiling(0.5), next))
  })
})
