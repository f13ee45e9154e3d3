/** Powers of a sound in bands of a third of an octave, window by window. */
import { SAMPLE_RATE_HZ, type Mono } from './frames'
import { Spectrum } from './spectrum'

/** 6 Hz a bin: a third of an octave at 55 Hz is two of them. */
const BAND_WINDOW_FRAMES = 8_192
const HOP_FRAMES = BAND_WINDOW_FRAMES / 2

/** Middles of bands of a third of an octave, in hertz, by the standard's exact ratios. @see IEC 61260-1. */
export function thirdOctavesHz(lowHz: number, highHz: number): number[] {
  const bands: number[] = []
  for (let n = Math.round(10 * Math.log10(lowHz / 1_000)); n <= Math.round(10 * Math.log10(highHz / 1_000)); n++) bands.push(1_000 * 10 ** (n / 10))
  return bands
}

/** What of a spectrum of powers lies in the third of an octave round a frequency. */
export function bandPower(powers: Float64Array, hz: number): number {
  const binAt = (edge: number) => (edge * BAND_WINDOW_FRAMES) / SAMPLE_RATE_HZ
  const [from, to] = [binAt(hz * 2 ** (-1 / 6)), binAt(hz * 2 ** (1 / 6))]
  let sum = 0
  // Each bin stands for what lies within half a bin of it.
  for (let i = Math.max(0, Math.floor(from)); i <= Math.min(Math.ceil(to), powers.length - 1); i++)
    sum += powers[i] * Math.max(0, Math.min(to, i + 0.5) - Math.max(from, i - 0.5))
  return sum
}

/** Powers of all bins of each window, half a window apart; the same array for each. */
export function* spectraOf(sound: Mono): Generator<Float64Array> {
  const spectrum = new Spectrum(BAND_WINDOW_FRAMES)
  const powers = new Float64Array(BAND_WINDOW_FRAMES / 2 + 1)
  const windows = Math.max(1, Math.floor(sound.length / HOP_FRAMES) - 1)
  for (let w = 0; w < windows; w++) {
    const magnitudes = spectrum.read(sound, w * HOP_FRAMES)
    for (let bin = 0; bin < powers.length; bin++) powers[bin] = magnitudes[bin] ** 2
    yield powers
  }
}

/** The mean power of each bin. */
export function longTermPowers(sound: Mono): Float64Array {
  const mean = new Float64Array(BAND_WINDOW_FRAMES / 2 + 1)
  let windows = 0
  for (const powers of spectraOf(sound)) {
    windows++
    for (let bin = 0; bin < mean.length; bin++) mean[bin] += powers[bin]
  }
  return mean.map(power => power / Math.max(1, windows))
}
