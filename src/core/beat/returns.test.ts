import { expect, test } from '@jest/globals'
import { makeRandom } from '../audio/random'
import { FEATURE_RATE_HZ, type BeatFeatures } from './features'
import { readReturns, RETURN_BEATS, RETURN_CURVES } from './returns'

const HOPS = 60 * FEATURE_RATE_HZ
const PITCH_HOP_SECONDS = 0.1
const BEAT_SECONDS = 0.6

/** Strokes that come back after so many beats, and chords that come back after so many others. */
function featuresOf(strokeBeats: number, chordBeats: number): Pick<BeatFeatures, 'pitches' | 'onsets'> {
  const random = makeRandom(8)
  const strokes = Array.from({ length: strokeBeats * 4 }, random)
  const onsets = Array.from({ length: 5 }, () =>
    Float32Array.from({ length: HOPS }, (_, hop) => strokes[Math.floor((hop / (FEATURE_RATE_HZ * BEAT_SECONDS)) * 4) % strokes.length]!),
  )
  const chords = Array.from({ length: chordBeats }, () => Array.from({ length: 12 }, random))
  const treble = Float32Array.from(
    { length: 12 * Math.round(60 / PITCH_HOP_SECONDS) },
    (_, i) => chords[Math.floor((Math.floor(i / 12) * PITCH_HOP_SECONDS) / BEAT_SECONDS) % chordBeats]![i % 12]!,
  )
  return { onsets, pitches: { hopSeconds: PITCH_HOP_SECONDS, treble, bass: treble, tuningCents: 0, tuningAgreement: 1, tonality: 1 } }
}

const likenessAfter = (returns: number[], curve: number, beats: number) => returns[curve * RETURN_BEATS.length + RETURN_BEATS.indexOf(beats)]!

test('what comes back after four beats is told from what comes back after three, in pitch and in strokes apart', () => {
  const returns = readReturns(featuresOf(3, 4) as BeatFeatures, 1.4)(BEAT_SECONDS)
  expect(returns).toHaveLength(RETURN_BEATS.length * RETURN_CURVES)
  const [pitches, low, high] = [0, 1, 2]
  for (const beats of [4, 8, 16]) expect(likenessAfter(returns, pitches, beats)).toBeGreaterThan(0.95)
  for (const beats of [2, 3, 6]) expect(likenessAfter(returns, pitches, beats)).toBeLessThan(0.7)
  for (const curve of [low, high]) {
    for (const beats of [3, 6, 12]) expect(likenessAfter(returns, curve, beats)).toBeGreaterThan(0.95)
    for (const beats of [2, 4, 8]) expect(likenessAfter(returns, curve, beats)).toBeLessThan(0.7)
  }
})

test('silence and files shorter than what is asked for are like nothing', () => {
  const silent = featuresOf(3, 4)
  silent.onsets.forEach(curve => curve.fill(0))
  silent.pitches.treble.fill(0)
  silent.pitches.bass.fill(0)
  expect(readReturns(silent as BeatFeatures, 1.4)(BEAT_SECONDS).every(value => value === 0)).toBe(true)
  const long = readReturns(featuresOf(4, 4) as BeatFeatures, 4)(3)
  expect(likenessAfter(long, 0, 32)).toBe(0)
})
