import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import type { TidyPolicy } from '../song/tidy-schema'
import { mendsFor, USUAL_TIDY, type Findings } from './tidy'

const KEEP: TidyPolicy = USUAL_TIDY.spare
const at = (startSeconds: number, endSeconds: number) => ({ startSeconds, endSeconds })
/** Two phrases, a breath between them, an ess, a pop and a click in the second. */
const FOUND: Findings = {
  phrases: [at(1, 3), at(4, 6)],
  breaths: [at(3.4, 3.8)],
  esses: [at(4.2, 4.3)],
  pops: [at(4.5, 4.6)],
  clicks: [at(5, 5.001)],
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
    expect(mendsFor({ phrases: [], breaths: [], esses: [], pops: [], clicks: [] }, USUAL_TIDY.lead, 8)).toEqual([])
  })
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
