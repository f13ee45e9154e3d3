import { describe, expect, test } from '@jest/globals'
import { gaussian, makeRandom } from '../audio/random'
import { decibelsBetween, sine } from '../audio/signals.test-kit'
import { highPass, highShelf, StereoBiquad } from './biquad'
import { describeEffect, EFFECT_KINDS, type EffectKind } from './catalogue'
import { Chain, latencyFramesOf, type Step } from './chain'
import { StereoCompressor, USUAL_COMPRESSOR } from './compressor'
import { USUAL_LOW_CUT } from './filters'

const LOW_CUT: Step = { kind: 'low-cut', ...USUAL_LOW_CUT, cutoffHz: 120 }
const COMPRESSOR: Step = {
  ...USUAL_COMPRESSOR,
  kind: 'compressor',
  thresholdDecibels: -24,
  ratio: 4,
  attackSeconds: 0.005,
  releaseSeconds: 0.1,
  makeupDecibels: 3,
}
const AIR: Step = { kind: 'air', cornerHz: 8_000, gainDecibels: 4 }

/** What comes out of a chain on the left, block by block; `change` is called before each block. */
function through(chain: Chain, input: Float32Array, change: (block: number) => void = () => {}): Float32Array {
  const out = input.slice()
  const right = input.slice()
  for (let at = 0, block = 0; at < out.length; at += 128, block++) {
    change(block)
    chain.process(out.subarray(at, at + 128), right.subarray(at, at + 128))
  }
  return out
}

const sineOf = (frames: number) => sine({ hz: 220, frames, amplitude: 0.5 })
const voice = sineOf(48_000).map((sample, i) => sample * (i < 24_000 ? 1 : 0.25))

/** The largest step from one sample to the next. */
const roughest = (sound: Float32Array) => sound.reduce((most, sample, i) => (i === 0 ? 0 : Math.max(most, Math.abs(sample - sound[i - 1]))), 0)

describe('a chain', () => {
  test('is its effects one after the other, sample by sample, in their order', () => {
    const [left, right] = [voice.slice(), voice.slice()]
    const parts = [new StereoBiquad(highPass(120)), new StereoCompressor(COMPRESSOR as never), new StereoBiquad(highShelf(8_000, 4))]
    for (let at = 0; at < left.length; at += 128) for (const part of parts) part.process(left.subarray(at, at + 128), right.subarray(at, at + 128))
    expect(through(new Chain([LOW_CUT, COMPRESSOR, AIR]), voice)).toEqual(left)
    expect(through(new Chain([COMPRESSOR, LOW_CUT]), voice)).not.toEqual(through(new Chain([LOW_CUT, COMPRESSOR]), voice))
  })
  test('of nothing changes nothing', () => {
    expect(through(new Chain([]), voice)).toEqual(voice)
  })
  test.each<[string, Step[], Step[]]>([
    ['effects come', [], [LOW_CUT, COMPRESSOR, AIR]],
    ['they go', [LOW_CUT, COMPRESSOR, AIR], []],
    ['change places', [COMPRESSOR, LOW_CUT], [LOW_CUT, COMPRESSOR]],
    ['or only their settings', [COMPRESSOR], [{ ...COMPRESSOR, makeupDecibels: -9 } as Step]],
  ])('does not click where %s, and ends where it would have begun', (_, before, after) => {
    const steady = sineOf(96_000)
    const chain = new Chain(before)
    const changed = through(chain, steady, block => block === 200 && chain.set(after))
    const limit = 1.5 * Math.max(roughest(through(new Chain(before), steady).subarray(20_000)), roughest(through(new Chain(after), steady).subarray(20_000)))
    expect(roughest(changed.subarray(20_000, 40_000))).toBeLessThanOrEqual(limit)
    expect(decibelsBetween(changed.slice(80_000), through(new Chain(after), steady).slice(80_000))).toBeLessThan(-60)
  })
  test('changed faster than it can fade ends at the last row that was asked for', () => {
    const chain = new Chain([])
    const rows: Step[][] = [[LOW_CUT], [COMPRESSOR], [], [AIR]]
    const changed = through(chain, voice, block => rows[block] && chain.set(rows[block]))
    expect(decibelsBetween(changed.slice(40_000), through(new Chain([AIR]), voice).slice(40_000))).toBeLessThan(-60)
    expect(roughest(changed)).toBeLessThan(1.5 * roughest(through(new Chain([AIR]), voice)))
  })
  test('says what its compressors take away; a jump elsewhere leaves them what they know, a new start does not', () => {
    const chain = new Chain([LOW_CUT, COMPRESSOR])
    through(chain, sineOf(9_600))
    const taken = chain.reductionDecibels
    expect(taken).toBeGreaterThan(6)
    chain.reset({ goingOn: true })
    expect(chain.reductionDecibels).toBe(taken)
    chain.reset()
    expect(chain.reductionDecibels).toBe(0)
  })
  test('a row comes as late as it is said to', () => {
    const bent: Step = { kind: 'saturation', driveDecibels: 0, amountFraction: 0, outputDecibels: 0 }
    const row = [LOW_CUT, bent, bent, AIR]
    const impulse = new Float32Array(1_280)
    impulse[300] = 1
    const came = through(new Chain([bent, bent]), impulse)
    expect(came.indexOf(Math.max(...came))).toBe(300 + latencyFramesOf(row))
    expect(latencyFramesOf([LOW_CUT, COMPRESSOR, AIR])).toBe(0)
  })
})

describe('followers', () => {
  const kinds = EFFECT_KINDS.filter(kind => describeEffect(kind).family === 'step')
  const usual = (kind: EffectKind) => ({ kind, ...Object.fromEntries(describeEffect(kind).settings.map(({ name, usual }) => [name, usual])) }) as Step
  const all = [
    ...kinds.map(usual),
    { ...usual('equaliser'), highBellDecibels: 9 } as Step,
    { ...usual('saturation'), driveDecibels: 24, amountFraction: 1 } as Step,
  ]
  test.each<[string, Step[]]>([...all.map((step): [string, Step[]] => [step.kind, [step]]), ['all of them in a row', all]])(
    'of %s: whatever parts the sound is cut into, they sum to the whole',
    (_, steps) => {
      const random = makeRandom(8)
      const parts = [0.4, 0.05, 0.2].map(level =>
        [0, 1].map(() => Float32Array.from({ length: 24_064 }, (_, i) => level * gaussian(random) * (i % 6_000 < 3_000 ? 1 : 0.02))),
      )
      const whole = [0, 1].map(side => parts[0][side].map((x, i) => x + parts[1][side][i] + parts[2][side][i]))
      const chain = new Chain(steps)
      const followers = parts.map(() => chain.makeFollower())
      const block = (planes: Float32Array[], at: number) => planes.map(plane => plane.subarray(at, at + 128)) as [Float32Array, Float32Array]
      const [before] = whole.map(plane => plane.slice())
      for (let at = 0; at < 24_064; at += 128) {
        chain.process(...block(whole, at))
        followers.forEach((follower, i) => follower.process(...block(parts[i], at)))
      }
      for (const side of [0, 1]) {
        const sum = parts[0][side].map((x, i) => x + parts[1][side][i] + parts[2][side][i])
        expect(decibelsBetween(sum, whole[side])).toBeLessThan(-105)
      }
      // The usual equaliser is flat.
      if (steps[0] !== all[kinds.indexOf('equaliser')]) expect(decibelsBetween(before, whole[0])).toBeGreaterThan(-60)
    },
  )
})
