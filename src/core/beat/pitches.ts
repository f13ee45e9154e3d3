/** Spectral peaks folded to pitch classes, the bass apart from what lies above it, with the tuning found first. */
import type { Mono } from '../audio/frames'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { Spectrum } from '../audio/spectrum'

export interface PitchFrames {
  hopSeconds: number
  /** Twelve weights a frame, from C up; frame i is centred on i * hopSeconds. */
  treble: Mono
  bass: Mono
  /** How far the tuning lies from A = 440 Hz, -50..50 cents; 0 if nothing was found. */
  tuningCents: number
  /** Length of the mean vector of all distances from the semitone, 0..1: 1 if every peak agrees with the tuning. */
  tuningAgreement: number
  /** The mean share of the energy that spectral peaks of steady tones hold. */
  tonality: number
}

const RATE_HZ = SAMPLE_RATE_HZ / 8
const WINDOW = 4_096
const HOP = 512
const BASS_HZ = { min: 38, max: 240 }
const TREBLE_HZ = { min: 130, max: 2_100 }

interface Peak {
  frame: number
  /** Semitones from C0 with A4 = 440 Hz. */
  pitch: number
  weight: number
  bass: boolean
}

/** @param signal At 6 kHz. */
export function readPitches(signal: Mono): PitchFrames {
  const frames = Math.max(1, Math.ceil(signal.length / HOP))
  const { peaks, tonality } = collectPeaks(signal, frames)
  const { tuningCents, agreement } = estimateTuning(peaks)
  const treble = new Float32Array(12 * frames)
  const bass = new Float32Array(12 * frames)
  for (const { frame, pitch, weight, bass: low } of peaks) {
    const tuned = pitch - tuningCents / 100
    const nearest = Math.round(tuned)
    const distance = Math.abs(tuned - nearest)
    const closeness = Math.max(0, 1 - distance / 0.45)
    ;(low ? bass : treble)[frame * 12 + (((nearest % 12) + 12) % 12)] += weight * closeness
  }
  return { hopSeconds: HOP / RATE_HZ, treble, bass, tuningCents, tuningAgreement: agreement, tonality }
}

function collectPeaks(signal: Mono, frames: number): { peaks: Peak[]; tonality: number } {
  const spectrum = new Spectrum(WINDOW)
  const bin = (hz: number) => (hz * WINDOW) / RATE_HZ
  const peaks: Peak[] = []
  let tonality = 0
  let sounding = 0
  for (let frame = 0; frame < frames; frame++) {
    const magnitudes = spectrum.read(signal, frame * HOP - WINDOW / 2)
    let loudest = 0
    let energy = 0
    const first = Math.ceil(bin(BASS_HZ.min))
    const last = Math.floor(bin(TREBLE_HZ.max))
    for (let i = first; i <= last; i++) {
      loudest = Math.max(loudest, magnitudes[i])
      energy += magnitudes[i] * magnitudes[i]
    }
    if (loudest < 1e-3) continue
    let loudestBass = 0
    const bassEnd = Math.floor(bin(BASS_HZ.max))
    for (let i = first; i <= bassEnd; i++) loudestBass = Math.max(loudestBass, magnitudes[i])
    let held = 0
    for (let i = first; i <= last; i++) {
      const value = magnitudes[i]
      if (value < loudest * 0.004 || value < magnitudes[i - 1] || value <= magnitudes[i + 1]) continue
      const a = Math.log(magnitudes[i - 1] + 1e-12)
      const b = Math.log(value + 1e-12)
      const c = Math.log(magnitudes[i + 1] + 1e-12)
      const hz = ((i + (0.5 * (a - c)) / (a - 2 * b + c)) * RATE_HZ) / WINDOW
      // A steady tone fills the Hann window's main lobe; a drum's noise does not.
      const steady = magnitudes[i - 3] < value * 0.35 && magnitudes[i + 3] < value * 0.35
      if (!steady) continue
      held += magnitudes[i - 1] ** 2 + value ** 2 + magnitudes[i + 1] ** 2
      const pitch = 12 * Math.log2(hz / 440) + 57
      // Only what carries the bass counts as bass: its own partials and soft chord notes do not.
      if (hz < BASS_HZ.max && value > 0.35 * loudestBass) peaks.push({ frame, pitch, weight: value, bass: true })
      if (hz > TREBLE_HZ.min && value > loudest * 0.01) peaks.push({ frame, pitch, weight: Math.sqrt(value), bass: false })
    }
    tonality += Math.min(1, held / (energy + 1e-20))
    sounding++
  }
  return { peaks, tonality: sounding === 0 ? 0 : tonality / sounding }
}

/** Circular mean of the distances from the nearest semitone; low peaks are too coarse to count. */
function estimateTuning(peaks: Peak[]): { tuningCents: number; agreement: number } {
  let re = 0
  let im = 0
  let total = 0
  for (const { pitch, weight, bass } of peaks) {
    if (bass || pitch < 40) continue
    re += weight * Math.cos(2 * Math.PI * pitch)
    im += weight * Math.sin(2 * Math.PI * pitch)
    total += weight
  }
  if (total === 0) return { tuningCents: 0, agreement: 0 }
  return { tuningCents: (100 * Math.atan2(im, re)) / (2 * Math.PI), agreement: Math.hypot(re, im) / total }
}
