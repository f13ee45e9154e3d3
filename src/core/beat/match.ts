/** Finding the same sound again: where two pieces of a beat join best, and where an old beat lies in a new file of it. */
import FFT from 'fft.js'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { halveRate } from '../audio/halve-rate'

/** How far a join may move a piece: two milliseconds, which nobody hears as timing. */
export const MAX_JOIN_SHIFT_FRAMES = 96
/** A shift must make the join this much more alike. */
const JOIN_GAIN_FLOOR = 0.1

/**
 * How far to move the incoming sound, in frames, so that its wave runs on where the outgoing one leaves.
 * @param outgoing The crossfade's length of what would have followed.
 * @param incoming The same stretch of what comes, with MAX_JOIN_SHIFT_FRAMES more on both sides.
 */
export function bestJoinShift(outgoing: Float32Array, incoming: Float32Array): number {
  let best = 0
  let bestLikeness = likenessAt(outgoing, incoming, MAX_JOIN_SHIFT_FRAMES) + JOIN_GAIN_FLOOR
  for (let shift = -MAX_JOIN_SHIFT_FRAMES; shift <= MAX_JOIN_SHIFT_FRAMES; shift++) {
    const likeness = likenessAt(outgoing, incoming, MAX_JOIN_SHIFT_FRAMES + shift)
    if (likeness > bestLikeness) [best, bestLikeness] = [shift, likeness]
  }
  return best
}

/** Normalised correlation of `part` with `whole` from frame `at` on; 0 if either is silent. */
function likenessAt(part: Float32Array, whole: Float32Array, at: number): number {
  let product = 0
  let a = 0
  let b = 0
  for (let i = 0; i < part.length; i++) {
    const other = whole[at + i] ?? 0
    product += part[i] * other
    a += part[i] * part[i]
    b += other * other
  }
  return a > 1e-12 && b > 1e-12 ? product / Math.sqrt(a * b) : 0
}

export type BeatMatch =
  | { kind: 'fits'; /** Where frame 0 of the old sound lies in the new one. */ offsetFrames: number; /** 0..1 */ likeness: number }
  | { kind: 'other-tempo'; driftFrames: number }
  | { kind: 'does-not-fit'; likeness: number }

const SLOW_RATE_HZ = SAMPLE_RATE_HZ / 8
const ENVELOPE_HOP = 30
const CHECK_SECONDS = 4
const CHECK_PLACES = [0.2, 0.5, 0.8]
const CANDIDATES = 4
/** Far enough to see two speeds apart. */
const SEARCH_SECONDS = 0.06
/** Waves of the same recording, however encoded, correlate far above this; other music far below. */
const SAME_FLOOR = 0.5
/** Two checks further apart than this run at different speeds. */
const SPEED_TOLERANCE_FRAMES = 480

/** @param before The old sound, @param after the new one, both mono at 48 kHz. */
export function matchBeats(before: Mono, after: Mono): BeatMatch {
  const [slowBefore, slowAfter] = [before, after].map(signal => halveRate(halveRate(halveRate(signal))))
  const candidates = likelyLags(riseOf(slowBefore), riseOf(slowAfter)).map(lag => checksAt(slowBefore, slowAfter, lag * ENVELOPE_HOP))
  const meanLikeness = (checks: Check[]) => checks.reduce((sum, { likeness }) => sum + likeness, 0) / Math.max(1, checks.length)
  const checks = candidates.reduce((best, entry) => (meanLikeness(entry) > meanLikeness(best) ? entry : best), [])
  const sure = checks.filter(({ likeness }) => likeness > SAME_FLOOR)
  if (sure.length === 0) return { kind: 'does-not-fit', likeness: checks[0]?.likeness ?? 0 }
  const drift = (Math.max(...sure.map(check => check.lag)) - Math.min(...sure.map(check => check.lag))) * 8
  if (drift > SPEED_TOLERANCE_FRAMES) return { kind: 'other-tempo', driftFrames: drift }
  const offsetFrames = refine(before, after, sure[0].at * 8, Math.round(sure[0].lag * 8))
  return { kind: 'fits', offsetFrames, likeness: sure[0].likeness }
}

/** Rises of energy, hop by hop. */
function riseOf(signal: Mono): Mono {
  const rises = new Float32Array(Math.floor(signal.length / ENVELOPE_HOP))
  let before = 0
  for (let hop = 0; hop < rises.length; hop++) {
    let energy = 1e-6
    for (let i = 0; i < ENVELOPE_HOP; i++) energy += signal[hop * ENVELOPE_HOP + i] ** 2
    const level = Math.log(energy)
    rises[hop] = hop === 0 ? 0 : Math.max(0, level - before)
    before = level
  }
  return rises
}

interface Check {
  lag: number
  likeness: number
  at: number
}

/** The likeliest places first: beats are loops, so several may look right from afar. */
function checksAt(before: Mono, after: Mono, lag: number): Check[] {
  return CHECK_PLACES.map(part => checkAt(before, after, Math.round(before.length * part), lag))
    .filter(check => check !== null)
    .sort((a, b) => b.likeness - a.likeness)
}

/**
 * Lags, in hops, at which the second curve may be the first: its frame 0 + lag is the first's frame 0. By the phase
 * transform, which a loop's repeats blur less than plain correlation.
 * @see C. Knapp and G. Carter, The generalized correlation method for estimation of time delay, IEEE TASSP 24 (1976).
 */
function likelyLags(first: Mono, second: Mono): number[] {
  let size = 1_024
  while (size < first.length + second.length) size *= 2
  const fft = new FFT(size)
  const spectrumOf = (curve: Mono) => {
    const input = new Float64Array(2 * size)
    curve.forEach((value, i) => (input[2 * i] = value))
    const out = new Float64Array(2 * size)
    fft.transform(out, input)
    return out
  }
  const [a, b] = [spectrumOf(first), spectrumOf(second)]
  const product = new Float64Array(2 * size)
  for (let i = 0; i < size; i++) {
    const re = a[2 * i] * b[2 * i] + a[2 * i + 1] * b[2 * i + 1]
    const im = a[2 * i] * b[2 * i + 1] - a[2 * i + 1] * b[2 * i]
    const magnitude = Math.sqrt(re * re + im * im) + 1e-9
    product[2 * i] = re / magnitude
    product[2 * i + 1] = im / magnitude
  }
  const correlation = new Float64Array(2 * size)
  fft.inverseTransform(correlation, product)
  return Array.from({ length: size }, (_, i) => i)
    .sort((i, j) => correlation[2 * j] - correlation[2 * i])
    .slice(0, CANDIDATES)
    .map(i => (i < size / 2 ? i : i - size))
}

/** The lag near a guess at which the waves agree over some seconds; null where the stretch is silent or outside. */
function checkAt(before: Mono, after: Mono, at: number, guess: number): Check | null {
  const length = CHECK_SECONDS * SLOW_RATE_HZ
  const part = before.subarray(at, at + length)
  const reach = Math.round(SEARCH_SECONDS * SLOW_RATE_HZ)
  if (part.length < length / 2 || at + guess - reach < 0 || at + guess + reach + part.length > after.length) return null
  let best = { lag: guess, likeness: -1, at }
  // Coarse steps over a thinned wave first would miss the peak: at 6 kHz the whole search is small.
  const whole = after.subarray(at + guess - reach, at + guess + reach + part.length)
  const thin = part.filter((_, i) => i % 2 === 0)
  for (let shift = 0; shift <= 2 * reach; shift++) {
    let product = 0
    for (let i = 0; i < thin.length; i++) product += thin[i] * whole[shift + 2 * i]
    if (product > 0) {
      const likeness = likenessAt(part, whole, shift)
      if (likeness > best.likeness) best = { lag: guess - reach + shift, likeness, at }
    }
  }
  return best
}

/** To the frame, at the full rate. */
function refine(before: Mono, after: Mono, at: number, lag: number): number {
  const part = before.subarray(at, at + SAMPLE_RATE_HZ / 2)
  let best = lag
  let bestLikeness = -1
  for (let shift = lag - 12; shift <= lag + 12; shift++) {
    const likeness = likenessAt(part, after, at + shift)
    if (likeness > bestLikeness) [best, bestLikeness] = [shift, likeness]
  }
  return best
}
