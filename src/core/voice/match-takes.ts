/** Finds where a sung file lies against takes of the same lines, by when notes begin and how the melody goes. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { median } from '../audio/statistics'
import { correlateAt } from '../latency/correlate'
import type { VoiceAnalysis } from './analyse-voice'

type Heard = Pick<VoiceAnalysis, 'f0Hz' | 'power' | 'hopSeconds' | 'onsetSeconds'>
type PlacedTake = Heard & { originFrame: number }

/** The best place must stand this far above the spread of all places. */
const LEAST_PROMINENCE = 7

/**
 * @param brought The file, as it was heard.
 * @param against Takes in their places: `originFrame` is the song frame of the take's frame 0.
 * @returns the song frame of the file's frame 0, as near as two passes agree in time; null if it fits nowhere clearly.
 */
export function matchTakes(brought: Heard, against: readonly PlacedTake[]): { originFrame: number; confidence: number } | null {
  const hop = Math.round(brought.hopSeconds * SAMPLE_RATE_HZ)
  let best: { originFrame: number; prominence: number; take: PlacedTake } | null = null
  for (const take of against) {
    const reach = brought.f0Hz.length
    const template = features(brought)
    const sound = features(take).map(feature => {
      const padded = new Float32Array(feature.length + 2 * reach)
      padded.set(feature, reach)
      return padded
    })
    const lags = take.f0Hz.length + reach
    const sums = new Float64Array(lags + 1)
    template.forEach((feature, i) => correlateAt(sound[i], feature, lags).forEach((value, lag) => (sums[lag] += value)))
    const mean = sums.reduce((total, value) => total + value, 0) / sums.length
    const spread = Math.sqrt(sums.reduce((total, value) => total + (value - mean) ** 2, 0) / sums.length)
    let top = 0
    for (let lag = 1; lag < sums.length; lag++) if (sums[lag] > sums[top]) top = lag
    const prominence = (sums[top] - mean) / (spread + 1e-12)
    if (!best || prominence > best.prominence) best = { originFrame: take.originFrame + (top - reach) * hop, prominence, take }
  }
  if (!best || best.prominence < LEAST_PROMINENCE) return null
  return {
    originFrame: alignOnsets(brought, best.take, best.originFrame),
    confidence: Math.min(0.99, 1 - Math.exp(-(best.prominence - LEAST_PROMINENCE + 1) / 3.5)),
  }
}

/** Nearest onsets further apart than this are no pair. */
const PAIR_SECONDS = 0.09
const LEAST_PAIRS = 4

/** The place at which half of the notes are early and half late against the take's. */
function alignOnsets(brought: Heard, take: PlacedTake, originFrame: number): number {
  const offs = brought.onsetSeconds.flatMap(seconds => {
    const frame = originFrame + seconds * SAMPLE_RATE_HZ
    const off = take.onsetSeconds.reduce((nearest, onset) => {
      const distance = take.originFrame + onset * SAMPLE_RATE_HZ - frame
      return Math.abs(distance) < Math.abs(nearest) ? distance : nearest
    }, Infinity)
    return Math.abs(off) < PAIR_SECONDS * SAMPLE_RATE_HZ ? [off] : []
  })
  return offs.length < LEAST_PAIRS ? originFrame : originFrame + Math.round(median(offs))
}

/** Rises of the level, and the pitch as a point on the circle of the octave; each of unit energy. */
function features({ f0Hz, power }: Heard): Float32Array[] {
  const level = Array.from(power, value => Math.max(-60, 10 * Math.log10(value + 1e-12)))
  const rises = Float32Array.from(level, (value, i) => Math.max(0, value - (level[i - 4] ?? value)))
  const angle = (i: number) => 2 * Math.PI * Math.log2(f0Hz[i] / 440)
  const cosines = Float32Array.from(f0Hz, (hz, i) => (hz > 0 ? Math.cos(angle(i)) : 0))
  const sines = Float32Array.from(f0Hz, (hz, i) => (hz > 0 ? Math.sin(angle(i)) : 0))
  const centred = (feature: Float32Array, weight: number) => {
    const mean = feature.reduce((sum, value) => sum + value, 0) / feature.length
    const norm = Math.sqrt(feature.reduce((sum, value) => sum + (value - mean) ** 2, 0)) + 1e-9
    return feature.map(value => (weight * (value - mean)) / norm)
  }
  return [centred(rises, 1), centred(cosines, 0.7), centred(sines, 0.7)]
}
