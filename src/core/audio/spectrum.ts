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
  private readonly windowed: Float64Array
  private readonly complex: Float64Array

  /** @param size Window length in frames, a power of two. */
  constructor(readonly size: number) {
    this.fft = new FFT(size)
    this.window = hannWindow(size)
    this.windowed = new Float64Array(size)
    this.complex = new Float64Array(2 * size)
    this.magnitudes = new Float32Array(size / 2 + 1)
  }

  /** Magnitudes of the window that begins at `startFrame`; frames outside the signal count as silence. */
  read(signal: Float32Array, startFrame: number): Mono {
    const { size, windowed, complex, window, magnitudes } = this
    for (let i = 0; i < size; i++) {
      const at = startFrame + i
      windowed[i] = at >= 0 && at < signal.length ? signal[at] * window[i] : 0
    }
    this.fft.realTransform(complex, windowed)
    const scale = 4 / size
    for (let bin = 0; bin <= size / 2; bin++) {
      const re = complex[2 * bin]
      const im = complex[2 * bin + 1]
      magnitudes[bin] = Math.sqrt(re * re + im * im) * scale
    }
    return magnitudes
  }
}
