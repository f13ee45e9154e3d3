/** Figures of lists of numbers. */

/** The middle value, or the mean of the two middle ones; NaN of none. Values must not be NaN. */
export function median(values: ArrayLike<number>): number {
  const sorted = Float64Array.from(values).sort()
  const middle = sorted.length >> 1
  if (sorted.length === 0) return NaN
  return sorted.length % 2 === 1 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2
}

/** The value below which a share (0..1) of them lies; 0 of none. Values must not be NaN. */
export function quantile(values: Float32Array, share: number): number {
  return values.slice().sort()[Math.floor(share * (values.length - 1))] ?? 0
}
