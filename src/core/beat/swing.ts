/** How late the off-beats lie. */
import type { Mono } from '../audio/frames'
import { FEATURE_RATE_HZ } from './features'

export interface Swing {
  unit: 'eighths' | 'sixteenths'
  /** Where the second of a pair lies: 0.5 is straight, 0.667 a triplet. */
  ratio: number
}

const BINS = 96
const REGION = { from: 0.42, to: 0.72 }
/** A second of the pair must be struck this often, beside the first, to say anything. */
const HEARD_SHARE = 0.2
/** What differs less from the middle is straight. */
const STRAIGHT = 0.025

/** Null for a straight beat, and where a beat is divided in three. @param barOneHop In even time. */
export function findSwing(strength: Mono, tempoBpm: number, barOneHop: number, beatUnit: number): Swing | null {
  if (beatUnit === 8) return null
  const beat = (60 * FEATURE_RATE_HZ) / tempoBpm
  const sixteenths = secondOfPair(strength, beat / 2, barOneHop)
  if (sixteenths && Math.abs(sixteenths - 0.5) > STRAIGHT) return { unit: 'sixteenths', ratio: sixteenths }
  const eighths = secondOfPair(strength, beat, barOneHop)
  return eighths && Math.abs(eighths - 0.5) > STRAIGHT ? { unit: 'eighths', ratio: eighths } : null
}

function secondOfPair(strength: Mono, period: number, origin: number): number | null {
  const fold = new Float64Array(BINS)
  for (let i = 0; i < strength.length; i++) {
    const at = ((((i - origin) % period) + period) % period) * (BINS / period)
    const whole = Math.floor(at)
    fold[whole % BINS] += (1 - at + whole) * strength[i]
    fold[(whole + 1) % BINS] += (at - whole) * strength[i]
  }
  const smooth = fold.map((_, bin) => [-2, -1, 0, 1, 2].reduce((sum, k) => sum + fold[(bin + k + BINS) % BINS], 0))
  const first = Math.max(...[-3, -2, -1, 0, 1, 2, 3].map(k => smooth[(k + BINS) % BINS]))
  let best = Math.round(REGION.from * BINS)
  for (let bin = best; bin <= REGION.to * BINS; bin++) if (smooth[bin] > smooth[best]) best = bin
  if (smooth[best] < HEARD_SHARE * first || best <= REGION.from * BINS || best >= REGION.to * BINS - 1) return null
  const [a, b, c] = [smooth[best - 1], smooth[best], smooth[best + 1]]
  return (best + (a - 2 * b + c < 0 ? (0.5 * (a - c)) / (a - 2 * b + c) : 0)) / BINS
}
