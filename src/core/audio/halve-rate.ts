/** Halves a signal's rate, for analyses that need no more. */
import { Convolver } from './convolve'
import type { Mono } from './frames'
import { besselI0, kaiserBeta } from './window'

const HALF_TAPS = 24
const ATTENUATION_DECIBELS = 60

/** A half-band low-pass: every even tap but the middle one (0.5) is zero. */
const TAPS = (() => {
  const beta = kaiserBeta(ATTENUATION_DECIBELS)
  const taps = new Float32Array(2 * HALF_TAPS)
  let sum = 0
  for (let n = 1; n < HALF_TAPS; n += 2) {
    const tap = (Math.sin((Math.PI * n) / 2) / (Math.PI * n)) * (besselI0(beta * Math.sqrt(1 - (n / HALF_TAPS) ** 2)) / besselI0(beta))
    taps[HALF_TAPS - n] = taps[HALF_TAPS + n] = tap
    sum += tap
  }
  for (let t = 0; t < taps.length; t++) taps[t] *= 0.25 / sum
  taps[HALF_TAPS] = 0.5
  return taps
})()

/** Outputs made at a time: what is worked on stays near the processor. */
const BLOCK = 8_192

/** Every second sample of the low-passed signal; sample i stands for frame 2 i. Ends count as silence. */
export function halveRate(signal: Float32Array): Mono {
  const halved = new Float32Array(Math.ceil(signal.length / 2))
  const convolver = new Convolver(TAPS, 1, 2)
  const stretch = new Float32Array(2 * BLOCK + TAPS.length)
  for (let at = 0; at < halved.length; at += BLOCK) {
    const from = 2 * at - HALF_TAPS
    stretch.fill(0)
    stretch.set(signal.subarray(Math.max(0, from), from + stretch.length), Math.max(0, -from))
    halved.set(convolver.run([[stretch]], 0, 0, Math.min(BLOCK, halved.length - at))[0], at)
  }
  return halved
}
