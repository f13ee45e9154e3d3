import { expect, test } from '@jest/globals'
import { decibelsToGain } from '../audio/decibels'
import { gaussian, makeRandom } from '../audio/random'
import { compressedDecibels } from './compressor'
import { Dynamics } from './dynamics'

const [ATTACK, RELEASE] = [0.99, 0.9995]

/** Louder and softer by turns, with silence and a full-scale sample in it. */
function voice(seed: number, frames: number): Float32Array {
  const random = makeRandom(seed)
  return Float32Array.from({ length: frames }, (_, i) => {
    if (i % 701 < 3) return i % 2 === 0 ? 0 : 1
    return 0.3 * gaussian(random) * Math.sin(i / 900) ** 4
  })
}

/** In blocks that are no multiple of four, up to a whole one. */
function overBlocks(frames: number, run: (from: number, to: number) => void): void {
  for (let at = 0, size = 1; at < frames; at += size, size = 1 + ((7 * size + 3) % 128)) run(at, Math.min(frames, at + size))
}

/** The detector written out in doubles: how far each frame is turned down. */
function detected(wanted: readonly number[]): number[] {
  let [held, smoothed] = [0, 0]
  return wanted.map(decibels => {
    held = Math.max(decibels, RELEASE * held + (1 - RELEASE) * decibels)
    smoothed = ATTACK * smoothed + (1 - ATTACK) * held
    return smoothed
  })
}

const decibelsOf = (level: number) => 20 * Math.log10(Math.max(1e-10, level))
const worst = (a: Float32Array, b: readonly number[]) => b.reduce((most, x, i) => Math.max(most, Math.abs(a[i] - x)), 0)

test.each([
  [6, 4],
  [0, 2],
  [24, 20],
])('a compressor with a knee of %d dB and %d:1 does what its formula says, on both sides by the louder, and tells its factors', (knee, ratio) => {
  const [left, right] = [voice(1, 5_000), voice(2, 5_000)]
  const down = detected([...left].map((x, i) => decibelsOf(Math.max(Math.abs(x), Math.abs(right[i]))) - compressed(i)))
  function compressed(i: number): number {
    return compressedDecibels(decibelsOf(Math.max(Math.abs(left[i]), Math.abs(right[i]))), -24, ratio, knee)
  }
  const factors = down.map(decibels => 0.75 * decibelsToGain(3 - decibels) + 0.25)
  const dynamics = new Dynamics()
  const told = dynamics.follow()
  const [gotLeft, gotRight] = [left.slice(), right.slice()]
  overBlocks(left.length, (from, to) => {
    const [l, r] = [gotLeft.subarray(from, to), gotRight.subarray(from, to)]
    const kernel = dynamics.begin(l, r)
    kernel.compress(1, to - from, -24 - knee / 2, knee, 1 - 1 / ratio, ATTACK, RELEASE, 3, 0, 0.75, 0)
    dynamics.end(kernel, l, r)
    expect(worst(told, factors.slice(from, to))).toBeLessThan(1e-5)
  })
  expect(
    worst(
      gotLeft,
      [...left].map((x, i) => x * factors[i]),
    ),
  ).toBeLessThan(1e-5)
  expect(
    worst(
      gotRight,
      [...right].map((x, i) => x * factors[i]),
    ),
  ).toBeLessThan(1e-5)
  expect(dynamics.state[1]).toBeCloseTo(down.at(-1)!, 4)
})

test('of a lowered band a share is taken, by at most its range; where nothing is too loud the sound passes to the bit', () => {
  const [sound, band] = [voice(3, 4_000), voice(4, 4_000)]
  const down = detected([...band].map(x => Math.min(9, Math.max(0, decibelsOf(Math.abs(x)) + 30))))
  const dynamics = new Dynamics()
  const got = sound.slice()
  const lowered = (threshold: number) =>
    overBlocks(sound.length, (from, to) => {
      const block = got.subarray(from, to)
      const kernel = dynamics.begin(block, block)
      kernel.band[0].set(band.subarray(from, to))
      kernel.lower(0, to - from, threshold, 9, ATTACK, RELEASE)
      dynamics.end(kernel, block, block)
    })
  lowered(-30)
  expect(
    worst(
      got,
      [...sound].map((x, i) => x - (1 - decibelsToGain(-down[i])) * band[i]),
    ),
  ).toBeLessThan(1e-5)
  dynamics.reset()
  got.set(sound)
  lowered(1)
  expect(got).toEqual(sound)
})

test('an open gate passes the sound to the bit, and a closed one lowers it by its range however soft it is', () => {
  const sound = voice(5, 1_000)
  const dynamics = new Dynamics()
  const gated = (opens: number) => {
    const got = sound.slice()
    overBlocks(sound.length, (from, to) => {
      const block = got.subarray(from, to)
      const kernel = dynamics.begin(block, block)
      kernel.gate(0, to - from, opens, opens / 2, 10_000, 40, 0, ATTACK, RELEASE)
      dynamics.end(kernel, block, block)
    })
    return got
  }
  expect(gated(0)).toEqual(sound)
  dynamics.state.set([40, 0])
  const closed = gated(2)
  expect(
    worst(
      closed,
      [...sound].map(x => x * decibelsToGain(-40)),
    ),
  ).toBeLessThan(1e-7)
})

test('two detectors share nothing, though they are computed in one place', () => {
  const [one, other, alone] = [new Dynamics(), new Dynamics(), new Dynamics()]
  const loud = voice(6, 128).map(x => 4 * x)
  const run = (dynamics: Dynamics) => {
    const block = loud.slice()
    const kernel = dynamics.begin(block, block)
    kernel.compress(0, 128, -30, 0, 0.5, ATTACK, RELEASE, 0, 0, 1, 0)
    dynamics.end(kernel, block, block)
    return block
  }
  run(one)
  run(other)
  run(alone)
  const second = run(alone)
  expect(run(one)).toEqual(second)
  expect(run(other)).toEqual(second)
})
