import { expect, test } from '@jest/globals'
import { Walls, type Reflection } from './walls'

const NONE: readonly [Reflection[], Reflection[]] = [[], []]

/** What goes on, and what the walls answer, of a click at the first frame. */
function click(walls: Walls, frames: number): { on: Float32Array; answer: Float32Array } {
  const [on, answer] = [new Float32Array(frames), new Float32Array(frames)]
  const [input, silence] = [new Float32Array(128), new Float32Array(128)]
  input[0] = 1
  for (let at = 0; at < frames; at += 128) {
    walls.process(at === 0 ? input : silence, silence)
    on.set(walls.sides[0].block, at)
    answer.set(walls.sides[0].answer, at)
  }
  return { on, answer }
}

/** |H| at a frequency, by the sum of the impulse response. */
function responseDecibels(impulse: Float32Array, hz: number): number {
  let [re, im] = [0, 0]
  impulse.forEach((x, i) => {
    re += x * Math.cos((2 * Math.PI * hz * i) / 48_000)
    im += x * Math.sin((2 * Math.PI * hz * i) / 48_000)
  })
  return 20 * Math.log10(Math.hypot(re, im))
}

/** @see M. R. Schroeder, Natural sounding artificial reverberation, J. Audio Eng. Soc. 10 (1962). */
test.each([
  [131, 0.6],
  [149, 0.75],
  [379, 0.625],
])('a diffuser over %d frames lets every frequency through as loud as it came, and spreads it', (frames, gain) => {
  const { on } = click(new Walls({ diffusers: [{ frames, gain }], reflections: NONE }), 384 * 128)
  for (const hz of [40, 333, 1_000, 5_050, 17_000]) expect(Math.abs(responseDecibels(on, hz))).toBeLessThan(0.001)
  expect(on[0]).toBeCloseTo(-gain, 6)
  expect(on[frames]).toBeCloseTo(1 - gain ** 2, 6)
  expect(on[2 * frames]).toBeCloseTo(gain * (1 - gain ** 2), 6)
})

test('walls answer after the pre-delay, each at its time and as loud as it is; the other side hears nothing of it', () => {
  const reflections = [
    [
      [173, 0.5],
      [547, -0.25],
    ],
    [[200, 0.4]],
  ] as const
  const walls = new Walls({ diffusers: [], reflections })
  walls.setDelay(961)
  walls.settle()
  const { on, answer } = click(walls, 2_048)
  expect([...on].flatMap((x, i) => (x === 0 ? [] : [[i, x]]))).toEqual([[961, 1]])
  expect([...answer].flatMap((x, i) => (x === 0 ? [] : [[i, x]]))).toEqual([
    [961 + 173, 0.5],
    [961 + 547, -0.25],
  ])
  expect(walls.sides[1].block.every(x => x === 0)).toBe(true)
  walls.reset()
  expect(click(walls, 2_048).on).toEqual(on)
})

test('the longest pre-delay is kept through many turns of the ring, and another one is faded over to', () => {
  const walls = new Walls({ diffusers: [], reflections: NONE })
  walls.setDelay(9_600)
  walls.settle()
  const ramp = (at: number) => Float32Array.from({ length: 128 }, (_, i) => (at + i) / 48_000)
  const heard: number[] = []
  for (let at = 0; at < 128 * 300; at += 128) {
    if (at === 128 * 280) walls.setDelay(4_800)
    walls.process(ramp(at), ramp(at))
    heard.push(...walls.sides[1].block)
  }
  for (let i = 20_000; i < 128 * 280; i += 97) expect(heard[i]).toBeCloseTo((i - 9_600) / 48_000, 6)
  for (let i = 128 * 284; i < heard.length; i += 97) expect(heard[i]).toBeCloseTo((i - 4_800) / 48_000, 6)
  const steps = heard.slice(128 * 280, 128 * 284).map((x, i) => x - heard[128 * 280 + i - 1])
  expect(Math.max(...steps)).toBeLessThan((1.1 * 4_800) / 48_000 / 512 + 1 / 48_000)
})

test('below -300 dB nothing goes on ringing', () => {
  const walls = new Walls({ diffusers: [{ frames: 149, gain: 0.75 }], reflections: NONE })
  const { on } = click(walls, 128 * 400)
  expect(on.subarray(128 * 300).every(x => x === 0)).toBe(true)
})
