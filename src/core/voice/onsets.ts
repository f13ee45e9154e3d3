/** When notes begin: where voice sets in, where the level rises anew, where the pitch has moved to another note. */
import { median } from '../audio/statistics'
import { HOP_SECONDS } from './hop'

const LEAST_APART_SECONDS = 0.09
const STEP_CENTS = 70
/** Over this time a step of pitch must have been made, so that vibrato and drift are none. */
const STEP_SECONDS = 0.06
const RISE_DECIBELS = 6

/** @returns seconds, in order. A voice without pitch (whispering) gives none. */
export function findOnsets(f0Hz: Float32Array, power: Float32Array): number[] {
  const cents = smoothCents(f0Hz)
  const apart = Math.round(LEAST_APART_SECONDS / HOP_SECONDS)
  const reach = Math.round(STEP_SECONDS / HOP_SECONDS)
  const onsets: number[] = []
  let last = -Infinity
  const add = (frame: number) => {
    if (frame - last < apart) return
    onsets.push(frame * HOP_SECONDS)
    last = frame
  }
  for (let i = 1; i < f0Hz.length; i++) {
    if (f0Hz[i] === 0) continue
    const setsIn = f0Hz[i - 1] === 0 && isHeld(f0Hz, i, reach >> 1)
    if (setsIn) add(i)
    else if (rises(power, i) || steps(cents, i, reach)) add(i)
  }
  return onsets
}

function isHeld(f0Hz: Float32Array, from: number, hops: number): boolean {
  for (let i = from; i < from + hops; i++) if (!(f0Hz[i] > 0)) return false
  return true
}

/** The level has come up out of a dip between two vowels (an m, an l), and is at the middle of its rise. */
function rises(power: Float32Array, i: number): boolean {
  const back = 6
  if (i < back || i + back >= power.length) return false
  const rise = 10 * Math.log10((power[i + back] + 1e-12) / (power[i - back] + 1e-12))
  if (rise < RISE_DECIBELS) return false
  const slope = (at: number) => power[at + 2] / (power[at - 2] + 1e-12)
  return slope(i) >= slope(i - 1) && slope(i) > slope(i + 1)
}

/** The pitch settles on another note here: it differs from before by a step, and stays. */
function steps(cents: Float32Array, i: number, reach: number): boolean {
  const before = cents[i - reach]
  const after = cents[i + reach]
  if (!(before === before && after === after)) return false
  const change = after - before
  if (Math.abs(change) < STEP_CENTS) return false
  // The middle of the step: half of it is made.
  const half = before + change / 2
  return (cents[i - 1] - half) * (cents[i] - half) <= 0 && cents[i - 1] !== cents[i]
}

/** Cents by a running median of 7, NaN where there is no pitch. */
function smoothCents(f0Hz: Float32Array): Float32Array {
  const cents = Float32Array.from(f0Hz, hz => (hz > 0 ? 1_200 * Math.log2(hz) : NaN))
  return cents.map((value, i) => {
    if (value !== value) return NaN
    return median(cents.subarray(Math.max(0, i - 3), i + 4).filter(entry => entry === entry))
  })
}
