/** Short-time spectra: windowed magnitudes of a block, with everything allocated once. */
import FFT from 'fft.js'
import type { Mono } from './frames'
import { hannWindow } from './window'

/** Reads Hann-windowed magnitude spectra of one size. Keeps its buffers from call to call. */
export class Spectrum {
  /** Magnitudes of bins 0 .. size/2, scaled so that a full-scale sine reads about 1 at its bin. Overwritten by each `read`. */
  readonly magnitudes: Mono
  private readonly fft: FFT
  private readonly window: Mono
  /** Frames two by two, even ones as real parts and odd ones as imaginary parts: half the transform does. */
  private readonly pairs: Float64Array
  private readonly transformed: Float64Array
  private readonly cosines: Float64Array
  private readonly sines: Float64Array

  /** @param size Window length in frames, a power of two from 4 up. */
  constructor(readonly size: number) {
    const half = size / 2
    this.fft = new FFT(half)
    this.window = hannWindow(size)
    this.pairs = new Float64Array(size)
    this.transformed = new Float64Array(size)
    this.cosines = Float64Array.from({ length: half + 1 }, (_, bin) => Math.cos((Math.PI * bin) / half))
    this.sines = Float64Array.from({ length: half + 1 }, (_, bin) => Math.sin((Math.PI * bin) / half))
    this.magnitudes = new Float32Array(half + 1)
  }

  /** Magnitudes of the window that begins at `startFrame`; frames outside the signal count as silence. */
  read(signal: Float32Array, startFrame: number): Mono {
    const { size, pairs, transformed, window, magnitudes, cosines, sines } = this
    const from = Math.max(0, -startFrame)
    const to = Math.min(size, signal.length - startFrame)
    if (to - from < size) pairs.fill(0)
    for (let i = from; i < to; i++) pairs[i] = signal[startFrame + i] * window[i]
    this.fft.transform(transformed, pairs)
    // The spectra of the even and the odd frames lie folded in one: taken apart and joined bin by bin, both ends at once.
    const half = size / 2
    const scale = 2 / size
    for (let low = 0, high = half; low <= high; low++, high--) {
      const a = low === 0 ? 0 : 2 * low
      const b = low === 0 ? 0 : 2 * high
      const evenRe = transformed[a] + transformed[b]
      const evenIm = transformed[a + 1] - transformed[b + 1]
      const oddRe = transformed[a + 1] + transformed[b + 1]
      const oddIm = transformed[b] - transformed[a]
      const turnedRe = oddRe * cosines[low] + oddIm * sines[low]
      const turnedIm = oddIm * cosines[low] - oddRe * sines[low]
      magnitudes[low] = Math.sqrt((evenRe + turnedRe) ** 2 + (evenIm + turnedIm) ** 2) * scale
      magnitudes[high] = Math.sqrt((evenRe - turnedRe) ** 2 + (turnedIm - evenIm) ** 2) * scale
    }
    return magnitudes
  }
}
