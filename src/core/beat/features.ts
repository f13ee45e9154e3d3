/** What the ears of the Beat room listen to: onset strength in bands, pitch classes, and where the texture changes. */
import type { Mono } from '../audio/frames'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { halveRate } from '../audio/halve-rate'
import { Spectrum } from '../audio/spectrum'
import { readPitches, type PitchFrames } from './pitches'

/** One value of every curve each ten milliseconds. */
export const FEATURE_RATE_HZ = 100
const HOP_FRAMES = SAMPLE_RATE_HZ / FEATURE_RATE_HZ

/** Onset bands, low to high: kick, bass, chords, snare and clap, hats. */
export const ONSET_BANDS = 5

export interface BeatFeatures {
  hops: number
  /** Onset strength by band, low to high; what stands above the local mean, its mean over the song 1 (or all 0). */
  onsets: Mono[]
  /** All bands together. */
  allOnsets: Mono
  /** Log energies of all sub-bands, low to high. */
  levels: Mono[]
  /** The mean rise of log energy a hop: next to nothing for silence and drones. */
  activity: number
  /** How much the chord changes (pitch classes above the bass), how much the bass note does, and how much the texture does. Means 1 (or 0). */
  chordChange: Mono
  bassChange: Mono
  textureChange: Mono
  pitches: PitchFrames
  /** Where the first sound begins, in hops. */
  firstSoundHop: number
}

const HIGH_WINDOW = 512
const LOW_WINDOW = 256
const HIGH_RATE_HZ = SAMPLE_RATE_HZ / 2
const LOW_RATE_HZ = SAMPLE_RATE_HZ / 8
/** Edges of the sub-bands whose log energies rise at an onset; a band's onset strength is the mean rise of its sub-bands. */
const LOW_EDGES_HZ = [
  [24, 60, 95, 130],
  [130, 190, 260, 340],
]
const HIGH_EDGES_HZ = [
  [340, 450, 600, 800, 1_050, 1_400],
  [1_400, 1_800, 2_300, 2_900, 3_700, 4_700],
  [4_700, 6_000, 7_500, 9_200, 11_000],
]
/** An attack's rise is looked for over this many hops. */
const RISE_HOPS = 2
/** Everything is brought to this level first, so that a quiet file reads as a loud one does. */
const WORKING_RMS = 0.1
const LOG_GAIN = 1e5

/** @param mono 48 kHz. */
export function readFeatures(mono: Mono, onProgress: (fraction: number) => void = () => {}): BeatFeatures {
  const gain = gainToWorkingLevel(mono)
  const half = halveRate(mono)
  for (let i = 0; i < half.length; i++) half[i] *= gain
  onProgress(0.1)
  const eighth = halveRate(halveRate(half))
  onProgress(0.2)
  const hops = Math.max(1, Math.ceil(mono.length / HOP_FRAMES))
  const low = bandEnergies(eighth, LOW_RATE_HZ, LOW_WINDOW, LOW_EDGES_HZ, hops)
  const high = bandEnergies(half, HIGH_RATE_HZ, HIGH_WINDOW, HIGH_EDGES_HZ, hops)
  onProgress(0.6)
  const groups = [...low, ...high]
  const onsets = groups.map(group => toUnitMean(aboveLocalMean(meanRise(group))))
  const rises = meanRise(groups.flat())
  const activity = rises.reduce((sum, rise) => sum + rise, 0) / hops
  const allOnsets = toUnitMean(aboveLocalMean(rises))
  const pitches = readPitches(eighth)
  onProgress(0.9)
  return {
    hops,
    onsets,
    allOnsets,
    levels: groups.flat(),
    activity,
    chordChange: toUnitMean(pitchChange(pitches.treble, pitches.hopSeconds, hops, 0.5)),
    bassChange: toUnitMean(pitchChange(pitches.bass, pitches.hopSeconds, hops, 0.5)),
    textureChange: toUnitMean(textureChange(groups.flat(), hops)),
    pitches,
    firstSoundHop: firstSound(mono),
  }
}

/** The level of what sounds: of blocks within 30 dB of the loudest. */
function gainToWorkingLevel(mono: Mono): number {
  const block = 4_800
  const powers: number[] = []
  for (let start = 0; start < mono.length; start += block) {
    let sum = 0
    const end = Math.min(mono.length, start + block)
    for (let i = start; i < end; i++) sum += mono[i] * mono[i]
    powers.push(sum / (end - start))
  }
  const loudest = Math.max(0, ...powers)
  if (loudest < 1e-9) return 0
  const sounding = powers.filter(power => power > loudest * 1e-3)
  return WORKING_RMS / Math.sqrt(sounding.reduce((sum, power) => sum + power, 0) / sounding.length)
}

/** Log energies of sub-bands: [group][sub-band][hop]. Windows are centred on their hop. */
function bandEnergies(signal: Mono, rateHz: number, window: number, groups: number[][], hops: number): Mono[][] {
  const spectrum = new Spectrum(window)
  const hop = rateHz / FEATURE_RATE_HZ
  const bins = groups.map(edges => edges.map(hz => (hz * window) / rateHz))
  const energies = groups.map(edges => edges.slice(1).map(() => new Float32Array(hops)))
  for (let at = 0; at < hops; at++) {
    const magnitudes = spectrum.read(signal, at * hop - window / 2)
    bins.forEach((edges, group) => {
      for (let band = 0; band + 1 < edges.length; band++) {
        let energy = 0
        const first = Math.max(1, Math.round(edges[band]))
        const end = Math.max(first + 1, Math.round(edges[band + 1]))
        for (let bin = first; bin < end; bin++) energy += magnitudes[bin] * magnitudes[bin]
        energies[group][band][at] = Math.log(1 + LOG_GAIN * energy)
      }
    })
  }
  return energies
}

/** Half-wave rectified rise of log energy, the mean over sub-bands: spectral flux (S. Dixon, Onset detection revisited, DAFx 2006). */
function meanRise(bands: Mono[]): Mono {
  const rise = new Float32Array(bands[0].length)
  for (const band of bands) for (let i = RISE_HOPS; i < rise.length; i++) rise[i] += Math.max(0, band[i] - band[i - RISE_HOPS]) / bands.length
  return rise
}

/** What stands above a running mean of 0.4 s. */
function aboveLocalMean(strength: Mono): Mono {
  const half = Math.round(0.2 * FEATURE_RATE_HZ)
  const sums = runningSums(strength)
  return strength.map((value, i) => {
    const from = Math.max(0, i - half)
    const to = Math.min(strength.length, i + half + 1)
    return Math.max(0, value - (sums[to] - sums[from]) / (to - from))
  })
}

function runningSums(values: Mono): Float64Array {
  const sums = new Float64Array(values.length + 1)
  for (let i = 0; i < values.length; i++) sums[i + 1] = sums[i] + values[i]
  return sums
}

function toUnitMean(values: Mono): Mono {
  let sum = 0
  for (const value of values) sum += value
  const mean = sum / values.length
  return mean > 1e-9 ? values.map(value => value / mean) : values.fill(0)
}

/** One minus the cosine between the mean pitch classes of a stretch after and before each hop. */
function pitchChange(chroma: Mono, hopSeconds: number, hops: number, seconds: number): Mono {
  const frames = chroma.length / 12
  const reach = Math.max(1, Math.round(seconds / hopSeconds))
  const coarse = new Float32Array(frames)
  const before = new Float64Array(12)
  const after = new Float64Array(12)
  for (let i = 1; i < frames; i++) {
    before.fill(0)
    after.fill(0)
    for (let k = 0; k < reach; k++) {
      for (let c = 0; c < 12; c++) {
        if (i - 1 - k >= 0) before[c] += chroma[(i - 1 - k) * 12 + c]
        if (i + k < frames) after[c] += chroma[(i + k) * 12 + c]
      }
    }
    let dot = 0
    let a = 0
    let b = 0
    for (let c = 0; c < 12; c++) {
      dot += before[c] * after[c]
      a += before[c] ** 2
      b += after[c] ** 2
    }
    coarse[i] = a > 1e-12 && b > 1e-12 ? Math.max(0, 1 - dot / Math.sqrt(a * b)) : a + b > 1e-12 ? 0.5 : 0
  }
  return stretch(coarse, 1 / hopSeconds, hops)
}

/** How far the mean sub-band levels of the two seconds after a hop lie from those of the two before it; squared, so that sections count most. */
function textureChange(bands: Mono[], hops: number): Mono {
  const step = 5
  const reach = (2 * FEATURE_RATE_HZ) / step
  const coarseHops = Math.ceil(hops / step)
  const coarse = new Float32Array(coarseHops)
  for (const band of bands) {
    const sums = runningSums(band)
    const mean = (from: number, to: number) => {
      const a = Math.max(0, Math.min(hops, from * step))
      const b = Math.max(0, Math.min(hops, to * step))
      return b > a ? (sums[b] - sums[a]) / (b - a) : 0
    }
    for (let i = reach >> 1; i < coarseHops - (reach >> 1); i++) coarse[i] += (mean(i, i + reach) - mean(i - reach, i)) ** 2
  }
  return stretch(coarse, FEATURE_RATE_HZ / step, hops)
}

/** A slower curve at the feature rate, by straight lines. */
function stretch(coarse: Mono, coarseRateHz: number, hops: number): Mono {
  const fine = new Float32Array(hops)
  for (let i = 0; i < hops; i++) {
    const at = (i / FEATURE_RATE_HZ) * coarseRateHz
    const whole = Math.min(coarse.length - 1, Math.floor(at))
    const next = Math.min(coarse.length - 1, whole + 1)
    fine[i] = coarse[whole] + (at - whole) * (coarse[next] - coarse[whole])
  }
  return fine
}

function firstSound(mono: Mono): number {
  let loudest = 0
  for (let i = 0; i < mono.length; i++) loudest = Math.max(loudest, Math.abs(mono[i]))
  const floor = Math.max(1e-5, loudest * 0.01)
  for (let i = 0; i < mono.length; i++) if (Math.abs(mono[i]) > floor) return i / HOP_FRAMES
  return 0
}
