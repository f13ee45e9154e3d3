/** How fast the pulse goes: candidate tempos, each as exact as the length of the file allows, and the tempo's drift if it has one. */
import FFT from 'fft.js'
import type { Mono } from '../audio/frames'
import { FEATURE_RATE_HZ } from './features'

const SEARCH_BPM = { min: 42, max: 215 } as const

/** The onset strength's Fourier magnitudes, finely spaced. */
export interface PulseSpectrum {
  /** Relative to the sum of the strength: 1 would be a pulse of nothing but clicks in perfect time. */
  magnitudeAt: (hz: number) => number
}

const LONGEST_LAG_SECONDS = 60 / SEARCH_BPM.min
const COMB_MULTIPLES = 4
/** A candidate's neighbours in metre: what a strong pulse may be a part or a multiple of. */
const RELATIONS = [1, 2, 1 / 2, 3, 1 / 3, 3 / 2, 2 / 3, 4 / 3, 3 / 4, 4, 1 / 4]
const HARMONICS = [1, 2, 3, 4, 6, 8]

/** Candidate beat tempos in bpm, strongest pulse first; empty if nothing ever begins. */
export function candidateTempos(strength: Mono): number[] {
  const correlation = autocorrelate(strength, Math.ceil(LONGEST_LAG_SECONDS * COMB_MULTIPLES * FEATURE_RATE_HZ) + 2)
  if (!(correlation[0] > 1e-9)) return []
  const scored: { bpm: number; score: number }[] = []
  for (let bpm: number = SEARCH_BPM.min; bpm <= SEARCH_BPM.max; bpm *= 1.004) {
    const lag = (60 * FEATURE_RATE_HZ) / bpm
    let score = 0
    for (let k = 1; k <= COMB_MULTIPLES; k++) score += at(correlation, k * lag)
    scored.push({ bpm, score })
  }
  const peaks = scored
    .filter(({ score }, i) => score > (scored[i - 1]?.score ?? 0) && score >= (scored[i + 1]?.score ?? 0))
    .sort((a, b) => b.score - a.score)
    .slice(0, 6)
    .map(({ bpm }) => bpm)
  const spectrum = pulseSpectrum(strength)
  const refined: number[] = []
  for (const bpm of peaks.flatMap((peak, rank) => (rank < 3 ? RELATIONS : [1, 2, 1 / 2]).map(relation => peak * relation))) {
    if (bpm < SEARCH_BPM.min || bpm > SEARCH_BPM.max) continue
    if (refined.some(other => Math.abs(other / bpm - 1) < 0.012)) continue
    const exact = refineTempo(spectrum, bpm, 0.012)
    if (!refined.some(other => Math.abs(other / exact - 1) < 0.006)) refined.push(exact)
  }
  return refined
}

export function pulseSpectrum(strength: Mono): PulseSpectrum {
  let size = 1_024
  while (size < 4 * strength.length) size *= 2
  const fft = new FFT(size)
  const input = new Float64Array(size)
  input.set(strength)
  const out = new Float64Array(2 * size)
  fft.realTransform(out, input)
  const sum = Math.max(1e-9, out[0])
  return {
    magnitudeAt(hz) {
      const bin = (hz * size) / FEATURE_RATE_HZ
      const whole = Math.floor(bin)
      if (whole + 1 >= size / 2) return 0
      const magnitude = (i: number) => Math.sqrt(out[2 * i] ** 2 + out[2 * i + 1] ** 2) / sum
      return magnitude(whole) + (bin - whole) * (magnitude(whole + 1) - magnitude(whole))
    },
  }
}

/** The tempo near a guess whose beat and subdivisions carry most of the strength: the length of the file is the ruler. */
export function refineTempo({ magnitudeAt }: PulseSpectrum, guessBpm: number, span: number): number {
  let centre = guessBpm
  for (let reach = span; reach > 1e-5; reach /= 5) {
    let best = centre
    let bestScore = -Infinity
    for (let step = -12; step <= 12; step++) {
      const bpm = centre * (1 + (reach * step) / 12)
      let score = 0
      for (const harmonic of HARMONICS) score += magnitudeAt((harmonic * bpm) / 60)
      if (score > bestScore) [best, bestScore] = [bpm, score]
    }
    centre = best
  }
  return centre
}

/** Mean products of the strength with itself, less those that chance would give. */
export function autocorrelate(strength: Mono, lags: number): Float64Array {
  let mean = 0
  for (const value of strength) mean += value / strength.length
  const centred = strength.map(value => Math.min(value, 12) - mean)
  const correlation = new Float64Array(Math.min(lags, strength.length))
  for (let lag = 0; lag < correlation.length; lag++) {
    let sum = 0
    for (let i = lag; i < centred.length; i++) sum += centred[i] * centred[i - lag]
    correlation[lag] = sum / centred.length
  }
  return correlation
}

function at(values: Float64Array, position: number): number {
  const whole = Math.floor(position)
  if (whole + 1 >= values.length) return 0
  return values[whole] + (position - whole) * (values[whole + 1] - values[whole])
}
