/** Window functions for spectra and for filter design. */
import type { Mono } from './frames'

/** A periodic Hann window of the given length. */
export function hannWindow(length: number): Mono {
  const window = new Float32Array(length)
  for (let i = 0; i < length; i++) window[i] = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / length)
  return window
}

/** Zeroth-order modified Bessel function of the first kind, by its power series. */
export function besselI0(x: number): number {
  let sum = 1
  let term = 1
  for (let k = 1; term > sum * 1e-17; k++) {
    term *= (x / (2 * k)) ** 2
    sum += term
  }
  return sum
}

/**
 * Kaiser's beta for a wanted stop-band attenuation.
 * @see J. F. Kaiser, Nonrecursive digital filter design using the I0-sinh window function, 1974.
 */
export function kaiserBeta(attenuationDecibels: number): number {
  if (attenuationDecibels > 50) return 0.1102 * (attenuationDecibels - 8.7)
  if (attenuationDecibels < 21) return 0
  return 0.5842 * (attenuationDecibels - 21) ** 0.4 + 0.07886 * (attenuationDecibels - 21)
}
