import { describe, expect, test } from '@jest/globals'
import { makeRandom } from '../audio/random'
import { sine } from '../audio/signals.test-kit'
import { Hall, Plate, Room, USUAL_HALL, USUAL_PLATE, USUAL_ROOM } from './reverb'

const USUAL = USUAL_PLATE
const BARE = { ...USUAL, preDelaySeconds: 0, dampingHz: 20_000 }

/** What a space answers to a sound on both sides, in whole blocks. */
function answer(plate: Plate | Room | Hall, input: Float32Array, seconds: number, right = input): [Float32Array, Float32Array] {
  const frames = Math.ceil((seconds * 48_000) / 128) * 128
  const out: [Float32Array, Float32Array] = [new Float32Array(frames), new Float32Array(frames)]
  for (let at = 0; at < frames; at += 128) {
    const block = (plane: Float32Array) => Float32Array.from({ length: 128 }, (_, i) => plane[at + i] ?? 0)
    plate.addInto(out[0].subarray(at, at + 128), out[1].subarray(at, at + 128), block(input), block(right), 1)
  }
  return out
}

const burst = (seed: number, seconds = 0.1) => {
  const random = makeRandom(seed)
  return Float32Array.from({ length: seconds * 48_000 }, () => random() - 0.5)
}
const decibelsIn = (plane: Float32Array, fromSeconds: number, seconds = 0.2) => {
  const part = plane.subarray(fromSeconds * 48_000, (fromSeconds + seconds) * 48_000)
  return 10 * Math.log10(part.reduce((sum, x) => sum + x * x, 0) + 1e-30)
}
/** Seconds for 60 dB, from the slope between two moments. */
const decayOf = (plane: Float32Array, from: number, to: number, seconds = 0.2) =>
  (60 * (to - from)) / (decibelsIn(plane, from, seconds) - decibelsIn(plane, to, seconds))
/** A fifth of a second of a narrow band, which comes and goes softly: nothing of other frequencies is in it. */
const swell = (hz: number) => {
  const tones = Array.from({ length: 12 }, (_, i) => sine({ hz: hz * (0.9 + i / 60), frames: 9_600, phase: i * i, amplitude: 0.2 }))
  return Float32Array.from({ length: 9_600 }, (_, i) => tones.reduce((sum, tone) => sum + tone[i], 0) * Math.sin((Math.PI * i) / 9_600) ** 2)
}

describe('the space', () => {
  test.each([0.6, 1.5, 3, 5])('decays by 60 dB in %d s, steadily', decaySeconds => {
    const [left] = answer(new Plate({ ...BARE, decaySeconds }), burst(1), 0.5 + decaySeconds)
    expect(decayOf(left, 0.3, 0.3 + 0.5 * decaySeconds) / decaySeconds).toBeCloseTo(1, 0)
    const halves = [decayOf(left, 0.3, 0.3 + 0.25 * decaySeconds), decayOf(left, 0.3 + 0.25 * decaySeconds, 0.3 + 0.5 * decaySeconds)]
    for (const half of halves) expect(Math.abs(half / decaySeconds - 1)).toBeLessThan(0.3)
  })

  test.each([
    [300, 3_000],
    [2_000, 3_000],
    [6_000, 3_000],
    [6_000, 12_000],
  ])('lets %d Hz, damped from %d Hz on, die as a one-pole low pass in each line has it', (hz, dampingHz) => {
    const decaySeconds = 2
    const [left] = answer(new Plate({ ...BARE, decaySeconds, dampingHz }), swell(hz), 1.8)
    const pole = Math.exp((-2 * Math.PI * dampingHz) / 48_000)
    const angle = (2 * Math.PI * hz) / 48_000
    const lossDecibels = -20 * Math.log10((1 - pole) / Math.hypot(1 - pole * Math.cos(angle), pole * Math.sin(angle)))
    // A turn through a line takes 41 ms in the middle.
    const decibelsASecond = 60 / decaySeconds + lossDecibels / 0.041
    const until = Math.min(1.2, 40 / decibelsASecond)
    expect(Math.abs(60 / decayOf(left, 0.25, 0.25 + until, Math.min(0.2, until / 3)) / decibelsASecond - 1)).toBeLessThan(0.25)
  })

  test.each([0, 0.02, 0.12])('answers no sooner than its pre-delay of %d s and its shortest line, and soon after', preDelaySeconds => {
    const click = Float32Array.of(1)
    const [left] = answer(new Plate({ ...BARE, decaySeconds: 1, preDelaySeconds }), click, 0.4)
    const first = left.findIndex(sample => sample !== 0)
    expect(first).toBeGreaterThanOrEqual(Math.round(preDelaySeconds * 48_000) + 1_123)
    expect(first).toBeLessThan(Math.round(preDelaySeconds * 48_000) + 1_123 + 1_024)
  })

  test('makes one sound in the middle wide: both sides are as loud and as good as unlike', () => {
    const [left, right] = answer(new Plate({ ...BARE, decaySeconds: 1.5 }), burst(3, 1), 2)
    const product = (a: Float32Array, b: Float32Array) => a.reduce((sum, x, i) => sum + x * b[i], 0)
    expect(Math.abs(product(left, right) / Math.sqrt(product(left, left) * product(right, right)))).toBeLessThan(0.15)
    expect(Math.abs(10 * Math.log10(product(left, left) / product(right, right)))).toBeLessThan(1)
  })

  test('has no tone of its own: no frequency of a steady chirp is more than 12 dB over the middle', () => {
    const levels = Array.from({ length: 24 }, (_, i) => {
      const hz = 120 * 1.2 ** i
      const [left] = answer(new Plate({ ...BARE, decaySeconds: 1 }), sine({ hz, frames: 48_000, amplitude: 0.1 }), 1)
      return decibelsIn(left, 0.7)
    }).sort((a, b) => a - b)
    expect(levels.at(-1)! - levels[12]).toBeLessThan(12)
  })

  test('is the same every time, after a reset too, and falls silent altogether', () => {
    const plate = new Plate(USUAL)
    const [left] = answer(plate, burst(4), 0.5)
    plate.reset()
    const [again] = answer(plate, burst(4), 0.5)
    expect(again).toEqual(left)
    const [long] = answer(new Plate({ ...BARE, decaySeconds: 0.3 }), burst(5), 5)
    expect(Math.max(...long.subarray(-128).map(Math.abs))).toBe(0)
  })

  test('set otherwise while it sounds, it takes on the new decay without a step', () => {
    const plate = new Plate({ ...BARE, decaySeconds: 4 })
    const tone = sine({ hz: 300, frames: 48_000, amplitude: 0.2 })
    const [before] = answer(plate, tone, 1)
    plate.set({ ...BARE, decaySeconds: 0.5, preDelaySeconds: 0.05 })
    const [after] = answer(plate, new Float32Array(0), 1.5)
    const swing = (plane: Float32Array) => plane.reduce((most, x, i) => (i === 0 ? most : Math.max(most, Math.abs(x - plane[i - 1]))), 0)
    expect(swing(Float32Array.of(...before.subarray(-4_800), ...after.subarray(0, 4_800)))).toBeLessThan(1.5 * swing(before.subarray(-9_600)))
    expect(decayOf(after, 0.2, 0.6) / 0.5).toBeCloseTo(1, 0)
  })
})

describe('another size', () => {
  test.each([
    ['half', Plate, 0.5, 1],
    ['larger by half', Plate, 1.5, 1],
    ['half', Hall, 0.5, 3],
    ['larger by half', Hall, 1.5, 8],
  ] as const)('%s: %p of %d decays in its %d s all the same, and first comes sooner or later by so much', (_, Kind, sizeFraction, decaySeconds) => {
    const bare = { ...BARE, decaySeconds, sizeFraction }
    const measured = [8, 9, 10].map(seed => {
      const [left] = answer(new Kind(bare), swell(400 + 50 * seed), 0.9 + 0.6 * decaySeconds)
      return decayOf(left, 0.5, 0.5 + 0.5 * decaySeconds) / decaySeconds
    })
    expect(Math.abs(measured.reduce((sum, x) => sum + x, 0) / measured.length - 1)).toBeLessThan(0.05)
    const first = (size: number) => answer(new Kind({ ...bare, sizeFraction: size }), Float32Array.of(1), 0.3)[0].findIndex(x => Math.abs(x) > 1e-3)
    expect(first(sizeFraction) / first(1)).toBeCloseTo(sizeFraction, 1)
  })

  test('is as loud as the usual, and the smallest room is no pipe: its diffusers stay unlike', () => {
    const power = (sizeFraction: number) => decibelsIn(answer(new Room({ ...USUAL_ROOM, sizeFraction }), burst(11, 1), 1)[0], 0.2, 0.7)
    expect(Math.abs(power(0.5) - power(1))).toBeLessThan(2.5)
    expect(Math.abs(power(1.5) - power(1))).toBeLessThan(2.5)
    const levels = Array.from({ length: 24 }, (_, i) => {
      const tone = sine({ hz: 120 * 1.2 ** i, frames: 48_000, amplitude: 0.1 })
      return decibelsIn(answer(new Room({ ...USUAL_ROOM, dampingHz: 20_000, sizeFraction: 0.5 }), tone, 1)[0], 0.7)
    }).sort((a, b) => a - b)
    expect(levels.at(-1)! - levels[12]).toBeLessThan(12)
  })
})

describe('the room', () => {
  const SMALL = { ...BARE, decaySeconds: 0.5 }
  test('answers first with its walls, one by one and on each side at other times, then with all at once', () => {
    const click = Float32Array.of(1)
    const [left, right] = answer(new Room(SMALL), click, 0.5)
    const early = (plane: Float32Array) => [...plane.subarray(0, 420)].flatMap((x, i) => (Math.abs(x) > 0.05 ? [i] : []))
    // Sound goes 7.1 mm in a frame: the nearest wall is a way of 1.2 m longer than the singer's.
    expect(early(left)).toEqual([173, 263, 389])
    expect(early(right)).toEqual([197, 241])
    const filled = (from: number) => left.subarray(from, from + 2_400).filter(x => x !== 0).length / 2_400
    expect(filled(4_800)).toBeGreaterThan(0.9)
  })
  test.each([0.3, 0.6, 1.2])('decays by 60 dB in %d s', decaySeconds => {
    const [left] = answer(new Room({ ...SMALL, decaySeconds }), burst(7), 0.3 + decaySeconds)
    expect(Math.abs(decayOf(left, 0.2, 0.2 + 0.4 * decaySeconds, 0.1) / decaySeconds - 1)).toBeLessThan(0.2)
  })
  test('is clearer than the plate: more of its answer comes within the first 25 ms', () => {
    const clarity = (space: Plate | Room) => {
      const [left] = answer(space, Float32Array.of(1), 1)
      const energy = (from: number, to: number) => left.subarray(from, to).reduce((sum, x) => sum + x * x, 0)
      return energy(0, 1_200) / energy(1_200, left.length)
    }
    expect(clarity(new Room(SMALL))).toBeGreaterThan(2 * clarity(new Plate(SMALL)))
  })
})

describe('the hall', () => {
  const OPEN = { ...USUAL_HALL, dampingHz: 20_000, lowCutHz: 20, preDelaySeconds: 0 }
  test.each([1, 3, 8, 12])('decays by 60 dB in %d s within 5 %, steadily', decaySeconds => {
    // Several beginnings, for what is left of one is a few hundred resonances that beat.
    const measured = [8, 9, 10].map(seed => {
      const [left] = answer(new Hall({ ...OPEN, decaySeconds }), swell(400 + 50 * seed), 0.9 + 0.6 * decaySeconds)
      return decayOf(left, 0.5, 0.5 + 0.5 * decaySeconds) / decaySeconds
    })
    expect(Math.abs(measured.reduce((sum, x) => sum + x, 0) / measured.length - 1)).toBeLessThan(0.05)
  })

  test('grows before it dies, and is dense: after 150 ms as many samples lie beyond one deviation as of noise', () => {
    const [left] = answer(new Hall({ ...OPEN, decaySeconds: 4 }), Float32Array.of(1), 1.5)
    const power = (from: number) => decibelsIn(left, from, 0.03)
    expect(power(0.12)).toBeGreaterThan(power(0.04) - 1)
    // Abel and Huang, A simple, robust measure of reverberation echo density (2006): 1 for noise.
    const density = (from: number) => {
      const part = left.subarray(from * 48_000, (from + 0.03) * 48_000)
      const deviation = Math.sqrt(part.reduce((sum, x) => sum + x * x, 0) / part.length)
      return part.filter(x => Math.abs(x) > deviation).length / part.length / 0.3173
    }
    for (const from of [0.15, 0.3, 0.6, 1]) expect(density(from)).toBeGreaterThan(0.8)
  })

  test('its low cut keeps a hum out of it and lets a voice in', () => {
    const level = (hz: number, lowCutHz: number) => decibelsIn(answer(new Hall({ ...OPEN, lowCutHz }), sine({ hz, frames: 48_000, amplitude: 0.1 }), 1)[0], 0.7)
    expect(level(50, 20) - level(50, 400)).toBeGreaterThan(30)
    expect(Math.abs(level(2_000, 20) - level(2_000, 400))).toBeLessThan(0.2)
  })

  test('without width both sides are one, as loud as they were', () => {
    const [left, right] = answer(new Hall({ ...OPEN, widthFraction: 0 }), burst(9), 1)
    const [wide] = answer(new Hall(OPEN), burst(9), 1)
    // Walls far away come from their own sides all the same; in the body nothing differs.
    const apart = left.map((x, i) => x - right[i])
    expect(decibelsIn(left, 0.2, 0.6) - decibelsIn(apart, 0.2, 0.6)).toBeGreaterThan(40)
    expect(Math.abs(decibelsIn(left, 0.2, 0.6) - decibelsIn(wide, 0.2, 0.6))).toBeLessThan(1.5)
  })
})
