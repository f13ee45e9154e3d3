/** Hears a beat through: features, an even pulse, and every reading of its tempo, metre and bar one that might be meant. */
import type { Mono } from '../audio/frames'
import { DRIFT_GAIN_FLOOR, DRIFT_RANGE_FLOOR, followTempo, straighten, warpOf, type Drift } from './drift'
import { FEATURE_RATE_HZ, readFeatures, type BeatFeatures } from './features'
import { proposeReadings, type Hypothesis } from './hypotheses'
import { candidateTempos } from './pulse'

export interface Heard {
  features: BeatFeatures
  /** The same in even time; the same object for a steady beat. */
  even: BeatFeatures
  /** Null for a steady beat. */
  drift: Drift | null
  /** Hops of readings are in even time. */
  readings: Hypothesis[]
  toSeconds: (evenHop: number) => number
}

export function listen(mono: Mono, onProgress: (fraction: number) => void = () => {}): Heard {
  const features = readFeatures(mono, fraction => onProgress(0.85 * fraction))
  const rough = candidateTempos(features.allOnsets)
  const followed = rough.length > 0 ? followTempo(features.allOnsets, rough[0]) : null
  const drift = followed && followed.gain > DRIFT_GAIN_FLOOR && followed.range > DRIFT_RANGE_FLOOR ? followed : null
  onProgress(0.9)
  if (!drift) return { features, even: features, drift: null, readings: proposeReadings(features, rough), toSeconds: hop => hop / FEATURE_RATE_HZ }
  const warp = warpOf(drift, features.hops)
  const even = straighten(features, warp)
  return { features, even, drift, readings: proposeReadings(even, candidateTempos(even.allOnsets)), toSeconds: warp.toSeconds }
}
