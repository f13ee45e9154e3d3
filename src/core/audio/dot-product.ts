/**
 * The sum of products of two stretches of one signal. In four sums side by side: one alone waits for each addition before the next. In doubles:
 * as floats each sample would be converted each time it is read.
 */
export function dotProduct(signal: Float64Array, a: number, b: number, count: number): number {
  let s0 = 0
  let s1 = 0
  let s2 = 0
  let s3 = 0
  const even = count & ~3
  for (let i = 0; i < even; i += 4) {
    s0 += signal[a + i] * signal[b + i]
    s1 += signal[a + i + 1] * signal[b + i + 1]
    s2 += signal[a + i + 2] * signal[b + i + 2]
    s3 += signal[a + i + 3] * signal[b + i + 3]
  }
  for (let i = even; i < count; i++) s0 += signal[a + i] * signal[b + i]
  return s0 + s1 + s2 + s3
}
