/** The slow course of a row of values. */

/** A running mean over so many values, twice, shorter at the ends: nothing is left of what turns once in so long. */
export function smoothed(values: Float32Array, count: number): Float32Array {
  if (count < 2 || values.length < 2) return values
  return runningMean(runningMean(values, count), count)
}

function runningMean(values: Float32Array, count: number): Float32Array {
  const half = Math.max(1, Math.round(count / 2))
  const sums = new Float64Array(values.length + 1)
  for (let i = 0; i < values.length; i++) sums[i + 1] = sums[i] + values[i]
  return values.map((_, i) => {
    // Even about its middle at the ends too: a slope is not bent there.
    const reach = Math.min(half, i, values.length - 1 - i)
    return (sums[i + reach + 1] - sums[i - reach]) / (2 * reach + 1)
  })
}
