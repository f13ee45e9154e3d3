/** Whether takes that meet in a consonant go on with the same syllable: otherwise a seam there would sing one twice, or leave one out. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { AnalysedTake } from './quiet-places'

/** Takes of one line lie less than this apart. */
const MOST_APART_SECONDS = 0.15
/** Looked at on both sides of a seam: two syllables or three. */
const CONTEXT_SECONDS = 0.45
/** Both edges of the same gap between two vowels lie this near to where the lag of the takes has them. */
const SAME_GAP_SECONDS = 0.035
/** Below the loudest of the context, decibels: what is softer is all the same silence. */
const FLOOR_DECIBELS = 45

/** @param frame Where the seam would be, in a place without voice in all the takes. */
export function goOnAlike(takes: readonly AnalysedTake[], frame: number): boolean {
  const [first, ...others] = takes
  const gap = gapRound(first, frame)
  const curve = curveRound(first, frame)
  const tolerance = SAME_GAP_SECONDS / first.analysis.hopSeconds
  return others.every(other => {
    const lag = bestLag(curve, curveRound(other, frame), Math.round(MOST_APART_SECONDS / first.analysis.hopSeconds))
    const { from, to } = gapRound(other, frame)
    return Math.abs(from - gap.from - lag) <= tolerance && Math.abs(to - gap.to - lag) <= tolerance
  })
}

function hopAt({ analysis, originFrame }: AnalysedTake, frame: number): number {
  return Math.round((frame - originFrame) / SAMPLE_RATE_HZ / analysis.hopSeconds)
}

/** The hops without voice round a frame, relative to it. */
function gapRound(take: AnalysedTake, frame: number): { from: number; to: number } {
  const { f0Hz } = take.analysis
  const at = hopAt(take, frame)
  let [from, to] = [at, at]
  while (from > 0 && !(f0Hz[from - 1] > 0)) from--
  while (to < f0Hz.length && !(f0Hz[to] > 0)) to++
  return { from: from - at, to: to - at }
}

/** Level round a frame in decibels above the floor, hop by hop, without its mean. */
function curveRound(take: AnalysedTake, frame: number): Float32Array {
  const { power, hopSeconds } = take.analysis
  const reach = Math.round((CONTEXT_SECONDS + MOST_APART_SECONDS) / hopSeconds)
  const at = hopAt(take, frame)
  const levels = Float32Array.from({ length: 2 * reach + 1 }, (_, i) => 10 * Math.log10((power[at - reach + i] ?? 0) + 1e-12))
  const top = levels.reduce((most, level) => Math.max(most, level), -Infinity)
  const above = levels.map(level => Math.max(0, level - top + FLOOR_DECIBELS))
  const mean = above.reduce((sum, level) => sum + level, 0) / above.length
  return above.map(level => level - mean)
}

/** By how many hops the second curve comes later than the first, where both are most alike. */
function bestLag(first: Float32Array, second: Float32Array, most: number): number {
  let best = 0
  let bestLikeness = -Infinity
  for (let lag = -most; lag <= most; lag++) {
    let product = 0
    let a = 0
    let b = 0
    for (let i = most; i < first.length - most; i++) {
      const other = second[i + lag]
      product += first[i] * other
      a += first[i] * first[i]
      b += other * other
    }
    const likeness = product / Math.sqrt(a * b + 1e-12)
    if (likeness > bestLikeness) [best, bestLikeness] = [lag, likeness]
  }
  return best
}
