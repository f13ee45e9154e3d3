/** Onset strength: how much new energy arrives at each instant, in a low, a middle and a high band. */
import type { Mono } from '../audio/frames'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { Spectrum } from '../audio/spectrum'

const WINDOW_FRAMES = 1_024
export const ONSET_HOP_FRAMES = 256
export const ONSET_RATE_HZ = SAMPLE_RATE_HZ / ONSET_HOP_FRAMES

export interface OnsetStrength {
  /** All bands together; index i stands for frame i * ONSET_HOP_FRAMES. */
  all: Mono
  /** Below 150 Hz: kick and bass. */
  low: Mono
  /** Above 2 kHz: snare, clap and hats. */
  high: Mono
}

const BAND_EDGES_HZ = [30, 90, 150, 250, 400, 650, 1_000, 1_600, 2_500, 4_000, 6_500, 10_000, 16_000]

/**
 * Half-wave rectified change of log band energy, the mean over bands. Silence gives zeros.
 * @see S. Dixon, Onset detection revisited, DAFx 2006 (spectral flux), on log-compressed bands.
 */
export function onsetStrength(signal: Mono, onProgress: (fraction: number) => void = () => {}): OnsetStrength {
  const spectrum = new Spectrum(WINDOW_FRAMES)
  const hops = Math.ceil(signal.length / ONSET_HOP_FRAMES)
  const bandCount = BAND_EDGES_HZ.length - 1
  const edges = BAND_EDGES_HZ.map(hz => Math.max(1, Math.round((hz * WINDOW_FRAMES) / SAMPLE_RATE_HZ)))
  const before = new Float32Array(bandCount)
  const all = new Float32Array(hops)
  const low = new Float32Array(hops)
  const high = new Float32Array(hops)
  for (let hop = 0; hop < hops; hop++) {
    // The window lies so that an attack at its three-quarter point counts at this hop: flux answers to an attack early in the window's rise.
    const magnitudes = spectrum.read(signal, hop * ONSET_HOP_FRAMES - (WINDOW_FRAMES >> 1))
    for (let band = 0; band < bandCount; band++) {
      let energy = 0
      const end = Math.max(edges[band] + 1, edges[band + 1])
      for (let bin = edges[band]; bin < end; bin++) energy += magnitudes[bin] * magnitudes[bin]
      const level = Math.log(1 + 1e5 * energy)
      const rise = hop === 0 ? 0 : Math.max(0, level - before[band])
      before[band] = level
      all[hop] += rise / bandCount
      if (band < 2) low[hop] += rise / 2
      if (band >= 8) high[hop] += rise / 4
    }
    if (hop % 1_000 === 0) onProgress(hop / hops)
  }
  return { all, low, high }
}

/** Subtracts a running mean (0.4 s) and keeps what stands above it. */
export function aboveLocalMean(strength: Mono): Mono {
  const half = Math.round(0.2 * ONSET_RATE_HZ)
  const sums = new Float64Array(strength.length + 1)
  for (let i = 0; i < strength.length; i++) sums[i + 1] = sums[i] + strength[i]
  return strength.map((value, i) => {
    const from = Math.max(0, i - half)
    const to = Math.min(strength.length, i + half + 1)
    return Math.max(0, value - (sums[to] - sums[from]) / (to - from))
  })
}
