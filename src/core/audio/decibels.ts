/** Decibels and the linear factors they stand for. */

/** For loops over samples, where a power of ten is the slowest part: `Math.exp(NEPERS_PER_DECIBEL * decibels)` is the gain, and back. */
export const NEPERS_PER_DECIBEL = Math.LN10 / 20

export function decibelsToGain(decibels: number): number {
  return 10 ** (decibels / 20)
}

/** -Infinity for a gain of 0. */
export function gainToDecibels(gain: number): number {
  return 20 * Math.log10(Math.abs(gain))
}

/** -Infinity for a power of 0. */
export function powerToDecibels(power: number): number {
  return 10 * Math.log10(power)
}

/** Largest absolute sample; 0 for an empty block. */
export function peakOf(block: Float32Array): number {
  let peak = 0
  for (let i = 0; i < block.length; i++) {
    const level = Math.abs(block[i])
    if (level > peak) peak = level
  }
  return peak
}

/** Root mean square over a stretch of a block; 0 for an empty one. */
export function rmsOf(block: Float32Array, from = 0, to = block.length): number {
  if (to <= from) return 0
  let sum = 0
  for (let i = from; i < to; i++) sum += block[i] * block[i]
  return Math.sqrt(sum / (to - from))
}
