import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import type { TidyPolicy } from '../song/tidy-schema'
import type { Stretch } from '../voice/phrases'
import { isGain, mendsFor, USUAL_TIDY, type Findings } from './tidy'

const KEEP: TidyPolicy = USUAL_TIDY.spare
const at = (startSeconds: number, endSeconds: number) => ({ startSeconds, endSeconds })
/** Two phrases, a breath between them, an ess, a pop and a click in the second. */
const FOUND: Findings = {
  phrases: [at(1, 3), at(4, 6)],
  breaths: [at(3.4, 3.8)],
  esses: [at(4.2, 4.3)],
  pops: [at(4.5, 4.6)],
  clicks: [at(5, 5.001)],
  noises: [],
  finals: [],
  clipped: [],
}
const placed = (policy: TidyPolicy) =>
  mendsFor(FOUND, policy, 8).map(({ kind, startFrame, endFrame, decibels }) => [kind, startFrame / 48_000, endFrame / 48_000, decibels])

describe('a policy', () => {
  test('that keeps everything lays nothing', () => {
    expect(mendsFor(FOUND, KEEP, 8)).toEqual([])
  })
  test('that lowers breaths leaves them their place between the silences', () => {
    expect(placed({ ...KEEP, breathDecibels: -8, restDecibels: -60 })).toEqual([
      ['rest', 0, 0.94, -60],
      ['rest', 3.06, 3.4, -60],
      ['breath', 3.4, 3.8, -8],
      // From the breath to the phrase is too short for a silence of its own.
      ['rest', 6.06, 8, -60],
    ])
  })
  test('that takes breaths out lets the silence run through them', () => {
    const mends = placed({ ...KEEP, breathDecibels: -60, restDecibels: -60 })
    expect(mends.filter(([kind]) => kind === 'rest')).toEqual([
      ['rest', 0, 0.94, -60],
      ['rest', 3.06, 3.94, -60],
      ['rest', 6.06, 8, -60],
    ])
  })
  test('asks for esses, pops and clicks one by one', () => {
    expect(placed({ ...KEEP, essDecibels: -9 })).toEqual([['ess', 4.2, 4.3, -9]])
    expect(placed({ ...KEEP, popDecibels: -15 })).toEqual([['pop', 4.5, 4.6, -15]])
    expect(placed({ ...KEEP, mendsClicks: true })).toEqual([['click', 5, 5.001, 0]])
  })
  test('makes no silence of a take in which nothing was heard', () => {
    expect(mendsFor({ ...FOUND, phrases: [], breaths: [], esses: [], pops: [], clicks: [] }, USUAL_TIDY.lead, 8)).toEqual([])
  })
})

describe('noises between the phrases', () => {
  const noisy: Findings = { ...FOUND, breaths: [], noises: [at(3.3, 3.5)] }
  const noises = (found: Findings) => mendsFor(found, { ...KEEP, fillsNoises: true }, 8).filter(({ kind }) => kind === 'noise')
  test('give way to the longest stretch of nothing but the room', () => {
    const [noise] = noises(noisy)
    expect([noise.startFrame / 48_000, noise.endFrame / 48_000, noise.decibels]).toEqual([3.28, 3.52, 0])
    // From 6 s to 8 s nobody sings.
    expect(noise.tone!.startFrame / 48_000).toBeGreaterThanOrEqual(6)
    expect(noise.tone!.endFrame / 48_000).toBeLessThanOrEqual(8)
    expect(isGain(noise)).toBe(false)
  })
  test('are taken out where the take holds no such stretch', () => {
    const [noise] = noises({ ...noisy, phrases: [at(0, 3.1), at(3.7, 8)] })
    expect([noise.decibels, noise.tone, isGain(noise)]).toEqual([-60, undefined, true])
  })
})

describe('ends with the lead', () => {
  const ends = (phrases: Stretch[], lead: Stretch[]) =>
    mendsFor({ ...FOUND, phrases }, { ...KEEP, endsWithLead: true }, 12, lead).map(({ startFrame, endFrame }) => [startFrame / 48_000, endFrame / 48_000])
  test('a phrase that is held longer fades from where the lead ends', () => {
    expect(ends([at(1, 3.3)], [at(1, 3)])).toEqual([[2.97, 3.4]])
  })
  test.each<[string, Stretch[], Stretch[]]>([
    ['that ends as the lead does', [at(1, 3.02)], [at(1, 3)]],
    ['that ends before it', [at(1, 2.7)], [at(1, 3)]],
    ['that is held on far longer, which is meant so', [at(1, 4.2)], [at(1, 3)]],
    ['over whose end the lead comes in again', [at(1, 3.5)], [at(1, 3), at(3.3, 5)]],
    ['of its own, after the lead', [at(3.1, 4)], [at(1, 3)]],
  ])('one %s is left', (_, phrases, lead) => {
    expect(ends(phrases, lead)).toEqual([])
  })
  test('never reaches into the next phrase', () => {
    expect(ends([at(1, 3.3), at(3.35, 5)], [at(1, 3), at(3.9, 5)])[0][1]).toBeLessThanOrEqual(3.35)
  })
})

test('an ess that a phrase ends with is thinned once, as an ess', () => {
  const hissing: Findings = { ...FOUND, esses: [at(2.8, 3)], finals: [at(2.82, 3), at(5.9, 6)] }
  expect(mendsFor(hissing, { ...KEEP, essDecibels: -9, finalDecibels: -9 }, 8).map(({ kind }) => kind)).toEqual(['ess', 'final'])
  expect(mendsFor(hissing, { ...KEEP, finalDecibels: -9 }, 8).map(({ kind }) => kind)).toEqual(['final', 'final'])
})

test('clipped tops within a word are one mend, and are asked for', () => {
  const clipped = { ...FOUND, clipped: [at(2, 2.001), at(2.006, 2.007), at(5, 5.001)] }
  expect(mendsFor(clipped, { ...KEEP, roundsClips: true }, 8).map(({ startFrame, endFrame }) => [startFrame, endFrame])).toEqual([
    [96_000, 96_336],
    [240_000, 240_048],
  ])
  expect(mendsFor(clipped, USUAL_TIDY.lead, 8).some(({ kind }) => kind === 'clip')).toBe(false)
})

test('stacks lose their breaths and thin their esses, a lead keeps both, spare layers are left', () => {
  expect(USUAL_TIDY.lead.breathDecibels).toBeGreaterThan(-20)
  expect(USUAL_TIDY.lead.essDecibels).toBe(0)
  for (const role of ['double', 'high-harmony', 'low-harmony', 'octave'] as const) {
    expect(USUAL_TIDY[role].breathDecibels).toBe(-60)
    expect(USUAL_TIDY[role].essDecibels).toBeLessThan(0)
  }
  expect(mendsFor(FOUND, USUAL_TIDY.spare, 8)).toEqual([])
})

test('no silence ever touches a phrase, whatever was found', () => {
  const stretch = fc.tuple(fc.integer({ min: 0, max: 900 }), fc.integer({ min: 1, max: 200 })).map(([start, length]) => at(start / 100, (start + length) / 100))
  fc.assert(
    fc.property(fc.array(stretch, { maxLength: 6 }), fc.array(stretch, { maxLength: 6 }), (phrases, breaths) => {
      const rests = mendsFor({ ...FOUND, phrases, breaths }, { ...KEEP, restDecibels: -60 }, 11).filter(({ kind }) => kind === 'rest')
      for (const { startFrame, endFrame } of rests)
        for (const { startSeconds, endSeconds } of phrases) expect(endFrame <= startSeconds * 48_000 || startFrame >= endSeconds * 48_000).toBe(true)
    }),
  )
})
