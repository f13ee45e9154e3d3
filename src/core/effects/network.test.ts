import { expect, test } from '@jest/globals'
import { gaussian, makeRandom } from '../audio/random'
import { decibelsBetween } from '../audio/signals.test-kit'
import { Network } from './network'

const LINES = [131, 173, 211, 257, 307, 353, 401, 449]
const LEFT = [1, -1, 1, -1, 1, -1, 1, -1]
const RIGHT = [1, 1, -1, -1, 1, 1, -1, -1]
const lossless = (length: number) => 0.999 ** length

/** Written out frame by frame, in doubles. */
function byHand(input: readonly Float32Array[], gainOf: (frames: number) => number, damping: number): [Float32Array, Float32Array] {
  const lines = LINES.map(frames => new Float64Array(frames))
  const states = new Float64Array(8)
  const out: [Float32Array, Float32Array] = [new Float32Array(input[0].length), new Float32Array(input[0].length)]
  for (let i = 0; i < input[0].length; i++) {
    const heard = lines.map(line => line[i % line.length])
    out[0][i] = heard.reduce((sum, x, k) => sum + LEFT[k] * x, 0)
    out[1][i] = heard.reduce((sum, x, k) => sum + RIGHT[k] * x, 0)
    const fed = heard.map((x, k) => (states[k] = x + damping * (states[k] - x)) * gainOf(LINES[k]))
    const share = fed.reduce((sum, x) => sum + x, 0) / 4
    lines.forEach((line, k) => (line[i % line.length] = fed[k] - share + input[k % 2][i]))
  }
  return out
}

function run(network: Network, input: readonly Float32Array[], damping: number): [Float32Array, Float32Array] {
  const out: [Float32Array, Float32Array] = [new Float32Array(input[0].length), new Float32Array(input[0].length)]
  for (let at = 0; at < input[0].length; at += 128) {
    for (const side of [0, 1]) network.inputs[side].set(input[side].subarray(at, at + 128))
    network.run(damping)
    for (const side of [0, 1]) out[side].set(network.outputs[side], at)
  }
  return out
}

const noise = (seed: number, frames: number) => {
  const random = makeRandom(seed)
  return [0, 1].map(() => Float32Array.from({ length: frames }, (_, i) => (i < 2_000 ? 0.1 * gaussian(random) : 0)))
}

test.each([0, 0.4, 0.9])('the kernel is the network written out by hand, damped by %d', damping => {
  const network = new Network(LINES, LEFT, RIGHT)
  network.setGains(lossless)
  network.settle()
  const input = noise(5, 128 * 80)
  const expected = byHand(input, lossless, damping)
  const got = run(network, input, damping)
  for (const side of [0, 1]) expect(decibelsBetween(got[side], expected[side])).toBeLessThan(-110)
})

test('with gains of one and no damping nothing is lost: the reflection only turns the sound among the lines', () => {
  const network = new Network(LINES, LEFT, RIGHT)
  network.setGains(() => 1)
  network.settle()
  const [left] = run(network, noise(6, 128 * 400), 0)
  const energy = (from: number) => left.subarray(from, from + 12_800).reduce((sum, x) => sum + x * x, 0)
  expect(Math.abs(10 * Math.log10(energy(38_000) / energy(5_000)))).toBeLessThan(0.5)
})

test('other gains are there after a block, without a step; after a reset nothing is left', () => {
  const network = new Network(LINES, LEFT, RIGHT)
  network.setGains(lossless)
  network.settle()
  run(network, noise(7, 128 * 40), 0.2)
  network.setGains(() => 0)
  const silence = [new Float32Array(128 * 10), new Float32Array(128 * 10)]
  const [out] = run(network, silence, 0.2)
  expect(Math.max(...out.subarray(128 + 449).map(Math.abs))).toBe(0)
  network.setGains(lossless)
  network.settle()
  const first = run(network, noise(8, 128 * 20), 0.2)
  network.reset()
  expect(run(network, silence, 0.2)[0].every(x => x === 0)).toBe(true)
  network.reset()
  expect(run(network, noise(8, 128 * 20), 0.2)).toEqual(first)
})

test('two networks share nothing', () => {
  const [one, other] = [new Network(LINES, LEFT, RIGHT), new Network(LINES, LEFT, RIGHT)]
  one.setGains(lossless)
  run(one, noise(9, 1_280), 0)
  expect(run(other, [new Float32Array(1_280), new Float32Array(1_280)], 0)[0].every(x => x === 0)).toBe(true)
})

test.each([[[100, ...LINES.slice(1)]], [LINES.slice(1)], [LINES.map(length => 30 * length)]])('lines of %j are refused', lengths => {
  expect(() => new Network(lengths, LEFT, RIGHT)).toThrow(RangeError)
})
