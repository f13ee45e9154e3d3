import { expect, test } from '@jest/globals'
import { makeRandom } from '../audio/random'
import { findQuietPlaces, type AnalysedTake } from './quiet-places'

const RATE = 48_000
const HOP_SECONDS = 0.005

/** A line as it is heard: vowels of many lengths and levels, and the consonants between them; with where each vowel begins. */
function line(random: () => number) {
  let at = 0.5
  return Array.from({ length: 14 }, () => {
    const vowel = { startSeconds: at, endSeconds: at + 0.07 + 0.08 * random(), decibels: -30 + 14 * random() }
    at = vowel.endSeconds + 0.055 + 0.045 * random()
    return { ...vowel, consonantDecibels: -50 + 12 * random() }
  })
}

/** One take of it, so much later, in time and a little uneven. */
function take(vowels: ReturnType<typeof line>, lateSeconds: number, random: () => number): { take: AnalysedTake; startSeconds: number[] } {
  const hops = Math.round(5 / HOP_SECONDS)
  const f0Hz = new Float32Array(hops)
  const power = new Float32Array(hops).fill(1e-9)
  const placed = vowels.map(vowel => {
    const shift = lateSeconds + 0.006 * (2 * random() - 1)
    return { ...vowel, startSeconds: vowel.startSeconds + shift, endSeconds: vowel.endSeconds + shift }
  })
  const fill = (from: number, to: number, decibels: number) => {
    for (let i = Math.round(from / HOP_SECONDS); i < Math.round(to / HOP_SECONDS); i++) power[i] = 10 ** ((decibels + 2 * random()) / 10)
  }
  placed.forEach(({ startSeconds, endSeconds, decibels, consonantDecibels }, i) => {
    fill(startSeconds, endSeconds, decibels)
    f0Hz.fill(220, Math.round(startSeconds / HOP_SECONDS), Math.round(endSeconds / HOP_SECONDS))
    const next = placed[i + 1]
    if (next) fill(endSeconds, next.startSeconds, consonantDecibels)
  })
  const phrase = { startSeconds: placed[0].startSeconds, endSeconds: placed.at(-1)!.endSeconds }
  const analysis = {
    hopSeconds: HOP_SECONDS,
    f0Hz,
    power,
    clarity: f0Hz,
    weightedPower: power,
    noiseFloorDbfs: -90,
    clipped: [],
    breaths: [],
    esses: [],
    pops: [],
    clicks: [],
    noises: [],
    finals: [],
    phrases: [phrase],
    onsetSeconds: [],
  }
  return { take: { analysis, originFrame: 0 }, startSeconds: placed.map(vowel => vowel.startSeconds) }
}

test.each([0, 0.03, 0.06, 0.09, 0.12])('takes %f s apart meet in a consonant only where both go on with the same syllable', lateSeconds => {
  const random = makeRandom(11)
  let offered = 0
  for (let round = 0; round < 60; round++) {
    const vowels = line(random)
    const [first, second] = [0, lateSeconds].map(late => take(vowels, late, random))
    for (const { frame, reason } of findQuietPlaces([first.take, second.take], { startFrame: 0, endFrame: 5 * RATE })) {
      if (reason !== 'consonant') continue
      offered++
      const sung = ({ startSeconds }: typeof first) => startSeconds.filter(seconds => seconds <= frame / RATE).length
      expect(sung(second)).toBe(sung(first))
    }
  }
  // What is right is still offered, where the consonants last long enough to be together.
  if (lateSeconds < 0.04) expect(offered).toBeGreaterThan(60)
})
