import { describe, expect, test } from '@jest/globals'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { gaussian, makeRandom } from '../audio/random'
import type { Mend } from '../edits/tidy'
import { buzz } from '../voice/voice.test-kit'
import { withMends } from './apply-mends'

const SPAN = 2 * SAMPLE_RATE_HZ
const mend = (kind: Mend['kind'], startFrame: number, endFrame: number, decibels = 0): Mend => ({ kind, startFrame, endFrame, decibels })
const rms = (sound: Mono) => Math.sqrt(sound.reduce((sum, sample) => sum + sample * sample, 0) / sound.length)
const decibels = (ratio: number) => 20 * Math.log10(ratio)
const changed = (a: Mono, b: Mono) => {
  const places = [...a.keys()].filter(i => a[i] !== b[i])
  return { first: places[0], last: places.at(-1)! }
}

/** A vowel over a little noise, as clean as it was before something spoilt it. */
const random = makeRandom(6)
const clean = buzz(() => 131).sound.map(sample => 0.08 * sample + 0.0002 * gaussian(random))

describe('a click', () => {
  test.each([
    [3, 1],
    [24, 2],
    [96, 4],
  ])('of %d samples in a vowel is drawn anew to within a fraction of the voice', (length, seed) => {
    const at = SPAN + 777 * seed
    const spoilt = clean.slice()
    const noise = makeRandom(seed)
    for (let i = 0; i < length; i++) spoilt[at + i] += 0.5 * gaussian(noise)
    const mended = withMends(spoilt, [mend('click', at, at + length)])
    const error = rms(mended.subarray(at, at + length).map((sample, i) => sample - clean[at + i]))
    expect(decibels(error / rms(clean.subarray(at - 2_000, at + 2_000)))).toBeLessThan(length < 50 ? -30 : -14)
    expect(changed(mended, spoilt)).toEqual({ first: at, last: at + length - 1 })
  })
  test('in digital silence becomes silence', () => {
    const spoilt = new Float32Array(SAMPLE_RATE_HZ)
    spoilt[20_000] = 0.7
    expect(withMends(spoilt, [mend('click', 19_998, 20_002)]).every(sample => sample === 0)).toBe(true)
  })
  test('at the very ends of the sound is mended too', () => {
    const mended = withMends(clean, [mend('click', 0, 20), mend('click', clean.length - 20, clean.length)])
    expect(mended.every(Number.isFinite)).toBe(true)
    expect(mended).toHaveLength(clean.length)
  })
})

describe('a pop', () => {
  const thump = Float32Array.from(
    { length: 6_000 },
    (_, i) => 0.3 * Math.sin((2 * Math.PI * 45 * i) / SAMPLE_RATE_HZ) * Math.exp(-i / 1_400) * Math.min(1, i / 150),
  )
  const popped = clean.slice()
  thump.forEach((sample, i) => (popped[SPAN + i] += sample))
  const mended = withMends(popped, [mend('pop', SPAN, SPAN + 4_500, -15)])
  test('is lowered by about what is asked, its voice left', () => {
    const away = (sound: Mono) => rms(sound.subarray(SPAN, SPAN + 4_500).map((sample, i) => sample - clean[SPAN + i]))
    expect(decibels(away(mended) / away(popped))).toBeLessThan(-9)
    // Without a pop there is next to nothing to take away: the voice's lowest harmonic is at 131 Hz.
    const unspoilt = withMends(clean, [mend('pop', SPAN, SPAN + 4_500, -15)])
    expect(Math.abs(decibels(rms(unspoilt.subarray(SPAN, SPAN + 4_500)) / rms(clean.subarray(SPAN, SPAN + 4_500))))).toBeLessThan(1)
  })
  test('changes nothing further from it than its fades', () => {
    const { first, last } = changed(mended, popped)
    expect(first).toBeGreaterThanOrEqual(SPAN - 480)
    expect(last).toBeLessThan(SPAN + 4_500 + 2_400)
  })
})

test('a breath is lowered by exactly what is typed between its fades, and nothing beside it is touched', () => {
  const mended = withMends(clean, [mend('breath', SPAN, SPAN + 12_000, -8)])
  for (let i = SPAN + 2_000; i < SPAN + 10_000; i += 111) expect(mended[i]).toBeCloseTo(clean[i] * 10 ** (-8 / 20), 6)
  const { first, last } = changed(mended, clean)
  expect([first >= SPAN, last < SPAN + 12_000]).toEqual([true, true])
})

test('nothing laid is nothing changed', () => {
  expect(withMends(clean, [])).toEqual(clean)
})
