/** Where a known sound lies in a longer one: cross-correlation by FFT, read to a fraction of a frame. */
import FFT from 'fft.js'

/**
 * Sums of `sound[lag + i] * template[i]` for each lag from 0 to `maxLag`, frames outside `sound` counting as silence.
 * @returns `maxLag + 1` values.
 */
export function correlateAt(sound: Float32Array, template: Float32Array, maxLag: number): Float64Array {
  let size = 2
  while (size < template.length + maxLag + 1) size *= 2
  const fft = new FFT(size)
  const a = fft.createComplexArray()
  const b = fft.createComplexArray()
  const padded = new Float64Array(size)
  padded.set(sound.subarray(0, template.length + maxLag))
  fft.realTransform(a, padded)
  fft.completeSpectrum(a)
  padded.fill(0)
  padded.set(template)
  fft.realTransform(b, padded)
  fft.completeSpectrum(b)
  for (let i = 0; i < 2 * size; i += 2) {
    const re = a[i] * b[i] + a[i + 1] * b[i + 1]
    a[i + 1] = a[i + 1] * b[i] - a[i] * b[i + 1]
    a[i] = re
  }
  fft.inverseTransform(b, a)
  return Float64Array.from({ length: maxLag + 1 }, (_, lag) => b[2 * lag])
}

/** The place of a maximum between samples, by a parabola through its neighbours; the index itself at the ends. */
export function peakBetween(values: ArrayLike<number>, index: number): number {
  if (index <= 0 || index >= values.length - 1) return index
  const before = values[index - 1]
  const after = values[index + 1]
  const bend = before - 2 * values[index] + after
  return bend < 0 ? index + (0.5 * (before - after)) / bend : index
}
