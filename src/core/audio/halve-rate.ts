/** Halves a signal's rate, for analyses that need no more. */
import type { Mono } from './frames'
import { besselI0, kaiserBeta } from './window'

const HALF_TAPS = 12
const ATTENUATION_DECIBELS = 60

/** The odd taps of one side of a half-band low-pass; every even tap but the middle one (0.5) is zero. */
const SIDE_TAPS = (() => {
  const beta = kaiserBeta(ATTENUATION_DECIBELS)
  const taps = Float64Array.from({ length: HALF_TAPS }, (_, k) => {
    const n = 2 * k + 1
    return (Math.sin((Math.PI * n) / 2) / (Math.PI * n)) * (besselI0(beta * Math.sqrt(1 - (n / (2 * HALF_TAPS)) ** 2)) / besselI0(beta))
  })
  const sum = taps.reduce((total, tap) => total + tap, 0)
  return taps.map(tap => (0.25 * tap) / sum)
})()

/** Every second sample of the low-passed signal; sample i stands for frame 2 i. Ends count as silence. */
export function halveRate(signal: Float32Array): Mono {
  const padded = new Float32Array(signal.length + 4 * HALF_TAPS)
  padded.set(signal, 2 * HALF_TAPS)
  const halved = new Float32Array(Math.ceil(signal.length / 2))
  const [t0, t1, t2, t3, t4, t5, t6, t7, t8, t9, t10, t11] = SIDE_TAPS
  // Written out: this runs over every sample of a song.
  for (let i = 0; i < halved.length; i++) {
    const p = 2 * i + 2 * HALF_TAPS
    halved[i] =
      0.5 * padded[p] +
      t0 * (padded[p - 1] + padded[p + 1]) +
      t1 * (padded[p - 3] + padded[p + 3]) +
      t2 * (padded[p - 5] + padded[p + 5]) +
      t3 * (padded[p - 7] + padded[p + 7]) +
      t4 * (padded[p - 9] + padded[p + 9]) +
      t5 * (padded[p - 11] + padded[p + 11]) +
      t6 * (padded[p - 13] + padded[p + 13]) +
      t7 * (padded[p - 15] + padded[p + 15]) +
      t8 * (padded[p - 17] + padded[p + 17]) +
      t9 * (padded[p - 19] + padded[p + 19]) +
      t10 * (padded[p - 21] + padded[p + 21]) +
      t11 * (padded[p - 23] + padded[p + 23])
  }
  return halved
}
