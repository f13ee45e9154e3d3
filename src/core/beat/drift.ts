/** A tempo that wanders: followed window by window, so that all later analysis can work on an even pulse. */
import type { Mono } from '../audio/frames'
import { FEATURE_RATE_HZ, type BeatFeatures } from './features'

const WINDOW_SECONDS = 10
const STEP_SECONDS = 2
const REACH = 0.06
const STATES = 61
const HARMONICS = [1, 2, 4]
/** What a change of one state between windows costs, as a share of the strongest window's score. */
const CHANGE_COST = 0.006
const MAX_CHANGE = 3
/** A path must hold this much more of the pulse than the best even tempo, and wander this far, to count as drift. */
export const DRIFT_GAIN_FLOOR = 0.12
export const DRIFT_RANGE_FLOOR = 0.006

export interface Drift {
  /** Relative tempo, one value each window step; window i is centred at (i * STEP_SECONDS + WINDOW_SECONDS / 2) seconds. */
  ratios: number[]
  /** How much more of the pulse the wandering path holds than the best even tempo, relative. */
  gain: number
  /** Difference of the fastest and the slowest, relative. */
  range: number
}

/** @param baseBpm The strongest pulse of the whole, found as if it were even. */
export function followTempo(strength: Mono, baseBpm: number): Drift | null {
  const windowHops = WINDOW_SECONDS * FEATURE_RATE_HZ
  const stepHops = STEP_SECONDS * FEATURE_RATE_HZ
  const windows = Math.floor((strength.length - windowHops) / stepHops) + 1
  if (windows < 4) return null
  const ratioOf = (state: number) => 1 + REACH * ((2 * state) / (STATES - 1) - 1)
  const scores = Array.from({ length: windows }, (_, window) => {
    const part = strength.subarray(window * stepHops, window * stepHops + windowHops)
    return Float64Array.from({ length: STATES }, (_, state) =>
      HARMONICS.reduce((sum, harmonic) => sum + fourierMagnitude(part, (harmonic * baseBpm * ratioOf(state)) / 60), 0),
    )
  })
  const strongest = Math.max(...scores.map(row => Math.max(...row)))
  if (!(strongest > 0)) return null
  const path = bestPath(scores, CHANGE_COST * strongest)
  const held = (states: (window: number) => number) => scores.reduce((sum, row, window) => sum + row[states(window)], 0)
  let even = 0
  for (let state = 0; state < STATES; state++)
    even = Math.max(
      even,
      held(() => state),
    )
  const exact = path.map((state, window) => {
    const row = scores[window]
    if (state === 0 || state === STATES - 1) return ratioOf(state)
    const [a, b, c] = [row[state - 1], row[state], row[state + 1]]
    const shift = a - 2 * b + c < -1e-12 ? Math.max(-0.5, Math.min(0.5, (0.5 * (a - c)) / (a - 2 * b + c))) : 0
    return ratioOf(state + shift)
  })
  const ratios = exact.map((value, i) => 0.25 * (exact[i - 1] ?? value) + 0.5 * value + 0.25 * (exact[i + 1] ?? value))
  return { ratios, gain: held(window => path[window]) / even - 1, range: Math.max(...ratios) - Math.min(...ratios) }
}

/** Viterbi's algorithm with a cost for every change of state. */
function bestPath(scores: Float64Array[], cost: number): number[] {
  let totals = scores[0]
  const from: Int16Array[] = []
  for (let window = 1; window < scores.length; window++) {
    const next = new Float64Array(STATES).fill(-Infinity)
    const back = new Int16Array(STATES)
    for (let state = 0; state < STATES; state++) {
      for (let change = -MAX_CHANGE; change <= MAX_CHANGE; change++) {
        const before = state + change
        if (before < 0 || before >= STATES) continue
        const total = totals[before] - cost * Math.abs(change)
        if (total > next[state]) [next[state], back[state]] = [total, before]
      }
      next[state] += scores[window][state]
    }
    totals = next
    from.push(back)
  }
  const path = [totals.indexOf(Math.max(...totals))]
  for (let window = from.length - 1; window >= 0; window--) path.unshift(from[window][path[0]])
  return path
}

export interface Warp {
  /** Hop of the even time for each hop of the file, rising. */
  evenHops: Float64Array
  toSeconds: (evenHop: number) => number
}

/** The time in which a drifting beat is even. Its mean tempo stays that of the file. */
export function warpOf({ ratios }: Drift, hops: number): Warp {
  const evenHops = new Float64Array(hops)
  const ratioAt = (hop: number) => {
    const at = (hop / FEATURE_RATE_HZ - WINDOW_SECONDS / 2) / STEP_SECONDS
    const whole = Math.max(0, Math.min(ratios.length - 2, Math.floor(at)))
    const part = Math.max(0, Math.min(1, at - whole))
    return ratios[whole] + part * (ratios[whole + 1] - ratios[whole])
  }
  for (let hop = 1; hop < hops; hop++) evenHops[hop] = evenHops[hop - 1] + ratioAt(hop - 0.5)
  const scale = (hops - 1) / Math.max(1, evenHops[hops - 1])
  for (let hop = 0; hop < hops; hop++) evenHops[hop] *= scale
  return { evenHops, toSeconds: evenHop => inverse(evenHops, evenHop) / FEATURE_RATE_HZ }
}

/** The features that readings are made from, as they would be in even time. */
export function straighten(features: BeatFeatures, { evenHops }: Warp): BeatFeatures {
  const straight = (curve: Mono): Mono => {
    const out = new Float32Array(curve.length)
    let from = 0
    for (let i = 0; i < out.length; i++) {
      while (from + 2 < evenHops.length && evenHops[from + 1] < i) from++
      const part = (i - evenHops[from]) / Math.max(1e-9, evenHops[from + 1] - evenHops[from])
      out[i] = curve[from] + Math.max(0, Math.min(1, part)) * (curve[from + 1] - curve[from])
    }
    return out
  }
  return {
    ...features,
    onsets: features.onsets.map(straight),
    allOnsets: straight(features.allOnsets),
    chordChange: straight(features.chordChange),
    bassChange: straight(features.bassChange),
    textureChange: straight(features.textureChange),
    firstSoundHop: evenHops[Math.min(evenHops.length - 1, Math.round(features.firstSoundHop))],
  }
}

/** Where a rising curve reaches a value; beyond its ends it goes on as it began or ended. */
function inverse(rising: Float64Array, value: number): number {
  const last = rising.length - 1
  if (value <= 0) return value / Math.max(1e-9, rising[1])
  if (value >= rising[last]) return last + (value - rising[last]) / Math.max(1e-9, rising[last] - rising[last - 1])
  let low = 0
  let high = last
  while (high - low > 1) {
    const middle = (low + high) >> 1
    if (rising[middle] <= value) low = middle
    else high = middle
  }
  return low + (value - rising[low]) / (rising[high] - rising[low])
}

function fourierMagnitude(strength: Mono, hz: number): number {
  const step = (2 * Math.PI * hz) / FEATURE_RATE_HZ
  const cosStep = Math.cos(step)
  const sinStep = Math.sin(step)
  let re = 1
  let im = 0
  let sumRe = 0
  let sumIm = 0
  for (let i = 0; i < strength.length; i++) {
    sumRe += strength[i] * re
    sumIm += strength[i] * im
    const next = re * cosStep - im * sinStep
    im = re * sinStep + im * cosStep
    re = next
  }
  return Math.hypot(sumRe, sumIm)
}
