/** Key and tuning of a beat, from the pitch classes that sound. */
import type { Mono } from '../audio/frames'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { Spectrum } from '../audio/spectrum'

export const TONICS = ['C', 'C#', 'D', 'Eb', 'E', 'F', 'F#', 'G', 'Ab', 'A', 'Bb', 'B'] as const
export type Tonic = (typeof TONICS)[number]
export type Mode = 'major' | 'minor'
export interface Key {
  tonic: Tonic
  mode: Mode
}

export interface KeyReading {
  key: Key
  /** 0..1 */
  confidence: number
}

export interface KeyAnalysis {
  /** Best first, three; empty if no pitch was found. */
  readings: KeyReading[]
  /** How far the beat's tuning lies from A = 440 Hz, -50..50; 0 if nothing was found. */
  tuningCents: number
  /** Weight of each pitch class from C up, summing to 1; zeros if nothing was found. */
  chroma: number[]
}

const WINDOW_FRAMES = 8_192
const HOP_FRAMES = 4_096
const RANGE_HZ = { min: 60, max: 2_200 }

/**
 * Profiles of how often each degree sounds.
 * @see D. Temperley, What's key for key? The Krumhansl-Schmuckler key-finding algorithm reconsidered, Music Perception 17 (1999).
 */
const MAJOR_PROFILE = [5, 2, 3.5, 2, 4.5, 4, 2, 4.5, 2, 3.5, 1.5, 4]
const MINOR_PROFILE = [5, 2, 3.5, 4.5, 2, 4, 2, 4.5, 3.5, 2, 1.5, 4]
/** The raised seventh of the paper's minor is rare in beats: the lowered one takes half of its weight. */
const BEAT_MINOR_PROFILE = MINOR_PROFILE.map((weight, degree) => (degree === 10 ? 3.5 : degree === 11 ? 2 : weight))

/** Finds the key from spectral peaks between 60 and 2200 Hz, with the tuning estimated first. */
export function findKey(signal: Mono, onProgress: (fraction: number) => void = () => {}): KeyAnalysis {
  const spectralPeaks = collectPeaks(signal, onProgress)
  if (spectralPeaks.pitch.length < 40 || spectralPeaks.tonality < TONALITY_FLOOR) return { readings: [], tuningCents: 0, chroma: new Array<number>(12).fill(0) }
  const tuningCents = estimateTuning(spectralPeaks)
  const chroma = foldChroma(spectralPeaks, tuningCents)
  const scored = TONICS.flatMap((tonic, index) => [
    { key: { tonic, mode: 'major' as const }, score: profileMatch(chroma, index, MAJOR_PROFILE) },
    { key: { tonic, mode: 'minor' as const }, score: profileMatch(chroma, index, BEAT_MINOR_PROFILE) },
  ]).sort((a, b) => b.score - a.score)
  const weights = scored.map(entry => Math.exp(12 * (entry.score - scored[0].score)))
  const total = weights.reduce((sum, weight) => sum + weight, 0)
  const certainty = Math.min(1, Math.max(0.1, scored[0].score / 0.8))
  return {
    readings: scored.slice(0, 3).map((entry, i) => ({ key: entry.key, confidence: (certainty * weights[i]) / total })),
    tuningCents,
    chroma,
  }
}

/** The mean share of a window's energy that its spectral peaks hold. Generated noise reads about 0.3, tones above 0.6. */
const TONALITY_FLOOR = 0.42

interface SpectralPeaks {
  /** Pitch in semitones from C0 with A4 = 440 Hz. */
  pitch: number[]
  weight: number[]
  tonality: number
}

function collectPeaks(signal: Mono, onProgress: (fraction: number) => void): SpectralPeaks {
  const spectrum = new Spectrum(WINDOW_FRAMES)
  const firstBin = Math.ceil((RANGE_HZ.min * WINDOW_FRAMES) / SAMPLE_RATE_HZ)
  const lastBin = Math.floor((RANGE_HZ.max * WINDOW_FRAMES) / SAMPLE_RATE_HZ)
  const pitch: number[] = []
  const weight: number[] = []
  let tonality = 0
  let windows = 0
  for (let start = 0; start + HOP_FRAMES <= signal.length; start += HOP_FRAMES) {
    const magnitudes = spectrum.read(signal, start)
    let loudest = 0
    let energy = 0
    let peakEnergy = 0
    for (let bin = firstBin; bin <= lastBin; bin++) {
      loudest = Math.max(loudest, magnitudes[bin])
      energy += magnitudes[bin] ** 2
    }
    if (loudest < 1e-4) continue
    for (let bin = firstBin; bin <= lastBin; bin++) {
      const value = magnitudes[bin]
      if (value < loudest * 0.02 || value < magnitudes[bin - 1] || value <= magnitudes[bin + 1]) continue
      // A steady tone fills the Hann window's main lobe evenly; a drum's noise does not.
      const left = Math.log(magnitudes[bin - 1] + 1e-12)
      const middle = Math.log(value + 1e-12)
      const right = Math.log(magnitudes[bin + 1] + 1e-12)
      const shift = (0.5 * (left - right)) / (left - 2 * middle + right)
      const hz = ((bin + shift) * SAMPLE_RATE_HZ) / WINDOW_FRAMES
      if (magnitudes[bin - 3] < value * 0.35 && magnitudes[bin + 3] < value * 0.35) {
        peakEnergy += magnitudes[bin - 1] ** 2 + value ** 2 + magnitudes[bin + 1] ** 2
        pitch.push(12 * Math.log2(hz / 440) + 57)
        weight.push(Math.sqrt(value))
      }
    }
    tonality += Math.min(1, peakEnergy / (energy + 1e-20))
    windows++
    if (windows % 50 === 0) onProgress(start / signal.length)
  }
  return { pitch, weight, tonality: windows === 0 ? 0 : tonality / windows }
}

/** Circular mean of the peaks' distance from the nearest semitone. */
function estimateTuning({ pitch, weight }: SpectralPeaks): number {
  let re = 0
  let im = 0
  for (let i = 0; i < pitch.length; i++) {
    if (pitch[i] < 33) continue
    re += weight[i] * Math.cos(2 * Math.PI * pitch[i])
    im += weight[i] * Math.sin(2 * Math.PI * pitch[i])
  }
  return (100 * Math.atan2(im, re)) / (2 * Math.PI)
}

function foldChroma({ pitch, weight }: SpectralPeaks, tuningCents: number): number[] {
  const chroma = new Array<number>(12).fill(0)
  for (let i = 0; i < pitch.length; i++) {
    const tuned = pitch[i] - tuningCents / 100
    const nearest = Math.round(tuned)
    const distance = Math.abs(tuned - nearest)
    if (distance < 0.35) chroma[((nearest % 12) + 12) % 12] += weight[i] * (1 - distance / 0.5)
  }
  const sum = chroma.reduce((a, b) => a + b, 0)
  return chroma.map(value => (sum > 0 ? value / sum : 0))
}

/** Pearson's correlation between the chroma and a profile turned to a tonic. */
function profileMatch(chroma: number[], tonicIndex: number, profile: number[]): number {
  const turned = chroma.map((_, pitchClass) => profile[(pitchClass - tonicIndex + 12) % 12])
  const meanA = chroma.reduce((a, b) => a + b, 0) / 12
  const meanB = turned.reduce((a, b) => a + b, 0) / 12
  let top = 0
  let a2 = 0
  let b2 = 0
  for (let i = 0; i < 12; i++) {
    top += (chroma[i] - meanA) * (turned[i] - meanB)
    a2 += (chroma[i] - meanA) ** 2
    b2 += (turned[i] - meanB) ** 2
  }
  return a2 > 0 ? top / Math.sqrt(a2 * b2) : 0
}

/** Semitones above the tonic of the natural major or minor scale. */
export function scaleSemitones(mode: Mode): readonly number[] {
  return mode === 'major' ? [0, 2, 4, 5, 7, 9, 11] : [0, 2, 3, 5, 7, 8, 10]
}
