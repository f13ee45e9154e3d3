/** A take without its room's steady noise and hum, for the ears only: what is sung softly is heard through it. */
import FFT from 'fft.js'
import type { Mono } from '../audio/frames'

/** Windows of 43 ms at 24 kHz: harmonics of a voice and of the mains are apart, and an onset is not smeared far. */
const SIZE = 1_024
const HOP = SIZE / 4
/** Nothing is taken down by more: what is left of noise is to sound even, and not like tones. */
const LEAST_GAIN = 10 ** (-24 / 20)
/** How much of the last window's voice is believed in this one. */
const SMOOTHING = 0.97
/** Noise wavers: so much more than its mean is taken for noise. */
const OVER = 1.35

/**
 * @param voice One channel at any rate; not changed.
 * @param quiet Stretches in which nobody sings, in samples of the voice; with none of a window's length the voice comes back as it is.
 * @returns as many samples; Wiener's filter with the voice's share estimated from window to window.
 * @see Y. Ephraim and D. Malah, Speech enhancement using a minimum mean-square error short-time spectral amplitude estimator, IEEE Trans.
 * ASSP 32 (1984), for the decision-directed estimate.
 */
export function withoutNoise(voice: Mono, quiet: readonly { from: number; to: number }[]): Mono {
  const spectra = new Spectra(voice)
  const noise = noiseOf(spectra, quiet)
  if (!noise) return voice
  const cleaned = new Float32Array(voice.length)
  const last = new Float64Array(SIZE / 2 + 1)
  for (let start = HOP - SIZE; start < voice.length; start += HOP) {
    const spectrum = spectra.read(start)
    for (let bin = 0; bin <= SIZE / 2; bin++) {
      const power = spectrum[2 * bin] ** 2 + spectrum[2 * bin + 1] ** 2
      const over = power / noise[bin]
      const share = SMOOTHING * last[bin] + (1 - SMOOTHING) * Math.max(0, over - 1)
      const gain = Math.max(LEAST_GAIN, share / (1 + share))
      last[bin] = gain * gain * over
      spectrum[2 * bin] *= gain
      spectrum[2 * bin + 1] *= gain
    }
    spectra.addBack(cleaned, start)
  }
  return cleaned
}

function noiseOf(spectra: Spectra, quiet: readonly { from: number; to: number }[]): Float64Array | null {
  const noise = new Float64Array(SIZE / 2 + 1)
  let windows = 0
  for (const { from, to } of quiet) {
    for (let start = from; start + SIZE <= to; start += HOP) {
      const spectrum = spectra.read(start)
      for (let bin = 0; bin <= SIZE / 2; bin++) noise[bin] += spectrum[2 * bin] ** 2 + spectrum[2 * bin + 1] ** 2
      windows++
    }
  }
  return windows > 0 ? noise.map(sum => (OVER * sum) / windows + 1e-20) : null
}

/** Windows of a signal and their way back; the roots of Hann windows, so that four that overlap add up to one. */
class Spectra {
  private readonly fft = new FFT(SIZE)
  private readonly window = Float64Array.from({ length: SIZE }, (_, i) => Math.sqrt(0.5 - 0.5 * Math.cos((2 * Math.PI * i) / SIZE)))
  private readonly block = new Float64Array(SIZE)
  private readonly spectrum = new Float64Array(2 * SIZE)
  private readonly back = new Float64Array(2 * SIZE)

  constructor(private readonly signal: Mono) {}

  /** Overwritten by the next call. */
  read(start: number): Float64Array {
    const { block, signal, window } = this
    for (let i = 0; i < SIZE; i++) block[i] = start + i >= 0 && start + i < signal.length ? signal[start + i] * window[i] : 0
    this.fft.realTransform(this.spectrum, block)
    return this.spectrum
  }

  /** The spectrum read last, as it is now. */
  addBack(into: Mono, start: number): void {
    const { back, window } = this
    this.fft.completeSpectrum(this.spectrum)
    this.fft.inverseTransform(back, this.spectrum)
    for (let i = Math.max(0, -start); i < SIZE && start + i < into.length; i++) into[start + i] += 0.5 * window[i] * back[2 * i]
  }
}
