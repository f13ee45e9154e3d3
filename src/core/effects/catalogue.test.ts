import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { gaussian, makeRandom } from '../audio/random'
import { decibelsBetween } from '../audio/signals.test-kit'
import { describeEffect, EFFECT_KINDS, makeEffectOf, type EffectKind } from './catalogue'

function made(kind: EffectKind, settings: Record<string, number> = {}) {
  const outcome = makeEffectOf(kind, settings)
  if (!outcome.ok) throw new Error(JSON.stringify(outcome.problems))
  return outcome.effect
}
type Made = ReturnType<typeof made>

const noise = (seed: number, frames: number, level = 0.2) => {
  const random = makeRandom(seed)
  return Float32Array.from({ length: frames }, () => level * gaussian(random))
}
function through(effect: Made, left: Float32Array, right = left): [Float32Array, Float32Array] {
  const out: [Float32Array, Float32Array] = [left.slice(), right.slice()]
  for (let at = 0; at < left.length; at += 128) effect.process(out[0].subarray(at, at + 128), out[1].subarray(at, at + 128))
  return out
}

test.each(EFFECT_KINDS.filter(kind => describeEffect(kind).family === 'step'))('%s gives of one channel what it gives of two that are alike', kind => {
  const sound = noise(3, 24_000)
  const [pair] = through(made(kind), sound)
  const one = sound.slice()
  const effect = made(kind)
  for (let at = 0; at < one.length; at += 128) {
    const block = one.subarray(at, at + 128)
    effect.process(block, block)
  }
  expect(decibelsBetween(one, pair)).toBeLessThan(-120)
})

describe.each(EFFECT_KINDS)('%s', kind => {
  const { settings } = describeEffect(kind)

  test('its usual settings lie within their ranges, and each has a unit', () => {
    for (const { name, unit, min, max, usual } of settings) {
      expect(usual).toBeGreaterThanOrEqual(min)
      expect(usual).toBeLessThanOrEqual(max)
      expect(unit === 'factor').toBe(/^ratio$|Q$/.test(name))
    }
  })

  test('silence gives silence, also after it was loud and has rung out', () => {
    const effect = made(kind)
    expect(through(effect, new Float32Array(4_800))[0].every(x => x === 0)).toBe(true)
    through(effect, noise(1, 12_800))
    const tail = through(effect, new Float32Array(30 * 48_000))[0].subarray(-4_800)
    expect(Math.max(...tail.map(Math.abs))).toBeLessThan(1e-7)
  })

  test('is stable at the ends of its settings, and while they leap from one end to the other', () => {
    const extreme = fc.record(Object.fromEntries(settings.map(({ name, min, max }) => [name, fc.constantFrom(min, max)])))
    fc.assert(
      fc.property(extreme, extreme, fc.integer({ min: 1, max: 1_000 }), (one, other, seed) => {
        const effect = made(kind, one)
        for (const next of [other, one, other]) {
          const [left] = through(effect, noise(seed, 12_800, 0.5))
          const loudest = left.reduce((most, x) => Math.max(most, Math.abs(x)), 0)
          // 24 dB of make-up and 18 of two bells and two shelves are meant.
          expect(loudest).toBeLessThan(20_000)
          effect.set(next)
        }
      }),
      { numRuns: 12 },
    )
  })

  test('after a reset it is as new', () => {
    const used = made(kind)
    through(used, noise(2, 24_064))
    used.reset()
    const fresh = made(kind)
    fresh.reset()
    expect(through(used, noise(3, 12_800), noise(4, 12_800))).toEqual(through(fresh, noise(3, 12_800), noise(4, 12_800)))
  })
})

test('settings out of range, of another kind or unknown are refused by name; what is not given is usual', () => {
  const problems = (settings: unknown) => {
    const outcome = makeEffectOf('gate', settings)
    return outcome.ok ? [] : outcome.problems.map(({ setting }) => setting)
  }
  expect(problems({ rangeDecibels: 61 })).toEqual(['rangeDecibels'])
  expect(problems({ holdSeconds: 'long' })).toEqual(['holdSeconds'])
  expect(problems({ loudness: 3 })).toHaveLength(1)
  expect(problems([1])).toHaveLength(1)
  expect(problems({ thresholdDecibels: NaN })).toEqual(['thresholdDecibels'])
  expect(makeEffectOf('gate', { holdSeconds: 0.3 })).toMatchObject({ ok: true, settings: { holdSeconds: 0.3, attackSeconds: 0.002 } })
})
