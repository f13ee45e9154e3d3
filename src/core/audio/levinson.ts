/**
 * Levinson's recursion: the prediction-error filter (1, a1, a2 ...) of an autocorrelation.
 * @param correlation By lag, from 0 to the order. @param predictor As long; written. @param scratch As long.
 * @param error Of predicting nothing: the power, and what keeps the filter stable where nearly nothing sounds.
 * @see J. Makhoul, Linear prediction: a tutorial review, Proc. IEEE 63 (1975).
 */
export function levinson(correlation: Float64Array, predictor: Float64Array, scratch: Float64Array, error: number): void {
  predictor.fill(0)
  predictor[0] = 1
  let left = error
  for (let order = 1; order < predictor.length; order++) {
    let sum = correlation[order]
    for (let k = 1; k < order; k++) sum += predictor[k] * correlation[order - k]
    const reflection = -sum / left
    scratch.set(predictor)
    for (let k = 1; k < order; k++) predictor[k] += reflection * scratch[order - k]
    predictor[order] = reflection
    left *= 1 - reflection * reflection
  }
}
