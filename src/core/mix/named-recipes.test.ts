import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { makeRandom } from '../audio/random'
import { decibelsBetween } from '../audio/signals.test-kit'
import { describeEffect, EFFECT_KINDS, usualSettings } from '../effects/catalogue'
import { Chain, latencyFramesOf, type Step } from '../effects/chain'
import { findProblem } from '../song/check'
import type { RecipeStep, StepId } from '../song/mix-schema'
import { makeId, smallSong } from '../song/song.test-kit'
import { COLOUR_NAMES, RECIPE_NAMES, stepsOfColour, stepsOfNamed, WHOLE_NAMES } from './named-recipes'
import { partOfStep } from './part-of-step'
import { readRecipe, writeRecipe } from './recipe-file'
import { layRecipe, recipeAt, setRecipe, setStep, stepsOf } from './recipes'

const ALL = { kind: 'all' } as const
const KINDS = EFFECT_KINDS.filter((kind): kind is Step['kind'] => describeEffect(kind).family === 'step')
/** A dozen tones where voices are. */
const tones = (seed: number) => {
  const random = makeRandom(seed)
  const parts = Array.from({ length: 12 }, (_, i) => ({ hz: 200 * 1.3 ** i, phase: 6 * random() }))
  return Float32Array.from({ length: 24_000 }, (_, i) =>
    parts.reduce((sum, { hz, phase }) => sum + 0.03 * Math.sin((2 * Math.PI * hz * i) / 48_000 + phase), 0),
  )
}
const power = (sound: Float32Array) => 10 * Math.log10(sound.subarray(12_000).reduce((sum, x) => sum + x * x, 0))
/** With its delay taken off, on both sides. */
function through(steps: readonly Step[], left: Float32Array, right: Float32Array): Float32Array[] {
  const chain = new Chain(steps)
  const late = latencyFramesOf(steps)
  const out = [left, right].map(side => {
    const padded = new Float32Array(Math.ceil((side.length + late) / 128) * 128)
    padded.set(side)
    return padded
  })
  for (let at = 0; at < out[0].length; at += 128) chain.process(out[0].subarray(at, at + 128), out[1].subarray(at, at + 128))
  return out.map(side => side.slice(late, late + left.length))
}

describe('a part of a step', () => {
  test.each(KINDS)('%s: all of it is the step itself; next to none is next to nothing, whatever its settings', kind => {
    const { settings } = describeEffect(kind)
    const anySettings = fc.record(Object.fromEntries(settings.map(({ name, min, max }) => [name, fc.constantFrom(min, max)])))
    fc.assert(
      fc.property(anySettings, fc.integer({ min: 1, max: 99 }), (chosen, seed) => {
        const step = { kind, ...usualSettings(kind), ...chosen } as unknown as Step
        expect(partOfStep(step, 1)).toBe(step)
        const [left, right] = [tones(seed), tones(seed + 100)]
        const out = through([partOfStep(step, 1e-6)], left, right)
        // Of two sides, the low cut of their difference still turns its phase.
        const most = kind === 'width' ? 0.5 : 0.1
        expect(Math.abs(power(out[0]) - power(left))).toBeLessThan(most)
        expect(Math.abs(power(out[1]) - power(right))).toBeLessThan(most)
        // A cut at the end of hearing still turns phases.
        if (!['low-cut', 'high-cut', 'width'].includes(kind)) expect(decibelsBetween(out[0], left)).toBeLessThan(-80)
      }),
      { numRuns: 12 },
    )
  })
})

describe.each([...RECIPE_NAMES, ...WHOLE_NAMES])('the recipe "%s"', name => {
  const laid = layRecipe(smallSong(), { place: ALL, steps: stepsOfNamed(name, null, makeId) })
  test('can be kept in a song, and at an amount of 0 does nothing at all', () => {
    expect(findProblem(laid, null)).toBeNull()
    expect(stepsOf(recipeAt(setRecipe(laid, { place: ALL, amount: 0 }), ALL))).toEqual([])
    expect(stepsOf(recipeAt(laid, ALL))).toHaveLength(recipeAt(laid, ALL).steps.length)
  })
  test('compresses a stack half as hard as the lead', () => {
    const ratios = (role: 'lead' | 'double') => stepsOfNamed(name, role, makeId).flatMap(step => (step.kind === 'compressor' ? [step.ratio] : []))
    expect(ratios('double')).toEqual(ratios('lead').map(ratio => 1 + (ratio - 1) / 2))
  })
})

test('colours are heard as what they are called: a telephone has neither lows nor highs, broken is full of overtones', () => {
  for (const name of COLOUR_NAMES) {
    const recipe = layRecipe(smallSong(), { place: ALL, steps: stepsOfColour(name, makeId) })
    expect(findProblem(recipe, null)).toBeNull()
  }
  const tone = (hz: number) => Float32Array.from({ length: 24_000 }, (_, i) => 0.05 * Math.sin((2 * Math.PI * hz * i) / 48_000))
  const phone = (hz: number) => power(through(stepsOf({ enabled: true, amount: 1, steps: stepsOfColour('telephone', makeId) }), tone(hz), tone(hz))[0])
  expect(phone(1_500) - phone(120)).toBeGreaterThan(35)
  expect(phone(1_500) - phone(10_000)).toBeGreaterThan(30)
  const [broken] = through(stepsOf({ enabled: true, amount: 1, steps: stepsOfColour('broken', makeId) }), tone(300), tone(300))
  const strength = (hz: number) => {
    const sum = (wave: (x: number) => number) => broken.subarray(12_000).reduce((all, x, i) => all + x * wave((2 * Math.PI * hz * i) / 48_000), 0)
    return 20 * Math.log10(Math.hypot(sum(Math.sin), sum(Math.cos)))
  }
  // A square wave's third overtone is 9.5 dB below its first.
  expect(strength(900) - strength(300)).toBeGreaterThan(-15)
})

describe('a recipe as a file', () => {
  const steps = stepsOfNamed('close', 'lead', makeId)
  const text = writeRecipe('My close', { amount: 0.6, steps })
  const settingsOf = (all: readonly RecipeStep[]) => all.map(({ id: _, ...step }) => step)
  test('comes back as it was, with ids of its own', () => {
    const read = readRecipe(text, makeId)
    if (!read.ok) throw new Error(JSON.stringify(read))
    expect(read.recipe).toMatchObject({ name: 'My close', amount: 0.6 })
    expect(settingsOf(read.recipe.steps)).toEqual(settingsOf(steps))
    expect(read.recipe.steps.some(({ id }) => steps.some(step => step.id === id))).toBe(false)
  })
  test.each([
    ['', 'no-recipe'],
    ['{"format":"something"}', 'no-recipe'],
    ['[1, 2]', 'no-recipe'],
    [text.replace('"formatVersion": 1', '"formatVersion": 2'), 'newer'],
    [text.replace('"amount": 0.6', '"amount": 6'), 'damaged'],
    [text.replace('"ratio": 4', '"ratio": 400'), 'damaged'],
    [text.replace('"kind": "air"', '"kind": "magic"'), 'damaged'],
    [text.replace(/"steps": \[[^]*\]/, '"steps": [1]'), 'damaged'],
  ])('anything else is refused, and why is said (%#)', (broken, why) => {
    expect(readRecipe(broken, makeId)).toMatchObject({ ok: false, why })
  })
})

test('a slope is kept at one of the two that there are', () => {
  const song = smallSong()
  const step = recipeAt(song, ALL).steps.find(({ kind }) => kind === 'low-cut')!
  const slope = (slopeDecibels: number) =>
    recipeAt(setStep(song, { place: ALL, stepId: step.id, settings: { slopeDecibels } }), ALL).steps.find(({ id }: { id: StepId }) => id === step.id)
  expect([slope(17), slope(19), slope(90)]).toMatchObject([{ slopeDecibels: 12 }, { slopeDecibels: 24 }, { slopeDecibels: 24 }])
})
