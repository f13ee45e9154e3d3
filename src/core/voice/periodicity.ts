/** How well each short stretch of a voice repeats itself at each lag: the candidates among which the pitch path is sought. */
import FFT from 'fft.js'
import type { Mono } from '../audio/frames'
import { hannWindow } from '../audio/window'
import { HOP_SECONDS } from './hop'
import type { Gate } from './level'
import { runsOf } from './runs'

/** Voices from a low growl to a whistle. */
const PITCH_RANGE_HZ = { min: 50, max: 1_200 } as const
/** The rate at which candidates are sought: 48 kHz halved twice. */
export const CANDIDATE_RATE_HZ = 12_000
const HOP = CANDIDATE_RATE_HZ * HOP_SECONDS

const FFT_SIZE = 1_024
/** Three periods of 60 Hz. */
const WINDOW = 600
const MIN_LAG = CANDIDATE_RATE_HZ / PITCH_RANGE_HZ.max
const MAX_LAG = CANDIDATE_RATE_HZ / PITCH_RANGE_HZ.min
/** Above this only breath and esses are left; the spectrum is tapered to nothing over the octave below. */
const TOP_HZ = 3_600
export const CANDIDATES = 7
const LEAST_STRENGTH = 0.2

export interface Candidates {
  frames: number
  /** CANDIDATES values a frame; 0 where there are fewer. */
  f0Hz: Float32Array
  /** Normalised autocorrelation at the candidate's lag, about 0..1. */
  strength: Float32Array
}

/**
 * The maxima of the normalised autocorrelation, frame by frame, after what sounds in the quietest frames (noise, hum) was taken off the spectrum.
 * @param voice One channel at CANDIDATE_RATE_HZ; frame i is centred on i hops.
 * @param power Mean power of each frame (its length is the number of frames).
 * @param gate Frames below its least power are passed over; in its quiet frames nobody sings.
 * @see P. Boersma, Accurate short-term analysis of the fundamental frequency, Proc. Institute of Phonetic Sciences 17 (1993): the
 * window's own autocorrelation is divided out.
 * @see S. Boll, Suppression of acoustic noise in speech using spectral subtraction, IEEE Trans. ASSP 27 (1979).
 */
export function findCandidates(
  voice: Mono,
  power: Float32Array,
  { leastPower, quietFrames }: Pick<Gate, 'leastPower' | 'quietFrames'>,
  onProgress: (fraction: number) => void = () => {},
): Candidates {
  const frames = power.length
  const analysis = new PairedAutocorrelation()
  const noise = new Float64Array(FFT_SIZE / 2 + 1)
  for (const frame of quietFrames) {
    const [spectrum] = analysis.readPowers(voice, frame * HOP, frame * HOP)
    for (let bin = 0; bin < noise.length; bin++) noise[bin] += spectrum[bin] / quietFrames.length
  }
  const found: Candidates = { frames, f0Hz: new Float32Array(frames * CANDIDATES), strength: new Float32Array(frames * CANDIDATES) }
  const loud = runsOf(frames, frame => power[frame] >= leastPower).flatMap(({ from, to }) => Array.from({ length: to - from }, (_, i) => from + i))
  for (let i = 0; i < loud.length; i += 2) {
    const pair = [loud[i], loud[Math.min(i + 1, loud.length - 1)]]
    analysis.readPowers(voice, pair[0] * HOP, pair[1] * HOP)
    const correlations = analysis.correlate(noise)
    pickPeaks(correlations[0], found, pair[0] * CANDIDATES)
    if (pair[1] !== pair[0]) pickPeaks(correlations[1], found, pair[1] * CANDIDATES)
    if (i % 512 === 0) onProgress(i / loud.length)
  }
  return found
}

/** Two real signals go through one complex transform: one as its real, one as its imaginary part. */
class PairedAutocorrelation {
  private readonly fft = new FFT(FFT_SIZE)
  private readonly window = hannWindow(WINDOW)
  private readonly input = new Float64Array(2 * FFT_SIZE)
  private readonly output = new Float64Array(2 * FFT_SIZE)
  private readonly powers = [new Float64Array(FFT_SIZE / 2 + 1), new Float64Array(FFT_SIZE / 2 + 1)]
  private readonly taper = Float64Array.from({ length: FFT_SIZE / 2 + 1 }, (_, bin) => {
    const octavesBelow = Math.log2(TOP_HZ / Math.max(1, (bin * CANDIDATE_RATE_HZ) / FFT_SIZE))
    return octavesBelow <= 0 ? 0 : octavesBelow >= 1 ? 1 : 0.5 - 0.5 * Math.cos(Math.PI * octavesBelow)
  })
  /** The window's own autocorrelation over that at lag 0, turned over. */
  private readonly perWindow: Float64Array
  private readonly correlations = [new Float64Array(MAX_LAG + 2), new Float64Array(MAX_LAG + 2)]

  constructor() {
    const ofWindow = Array.from({ length: MAX_LAG + 2 }, (_, lag) => {
      let sum = 0
      for (let i = 0; i + lag < WINDOW; i++) sum += this.window[i] * this.window[i + lag]
      return sum
    })
    this.perWindow = Float64Array.from(ofWindow, value => ofWindow[0] / value)
  }

  /** The tapered power spectra of the windows round two samples; overwritten by the next call. */
  readPowers(signal: Float32Array, centreA: number, centreB: number): Float64Array[] {
    const { input, output, taper, window, powers } = this
    const startA = centreA - WINDOW / 2
    const startB = centreB - WINDOW / 2
    const inside = (at: number) => (at >= 0 && at < signal.length ? signal[at] : 0)
    input.fill(0)
    for (let i = 0; i < WINDOW; i++) {
      input[2 * i] = inside(startA + i) * window[i]
      input[2 * i + 1] = inside(startB + i) * window[i]
    }
    this.fft.transform(output, input)
    for (let bin = 0; bin <= FFT_SIZE / 2; bin++) {
      const mirrored = 2 * ((FFT_SIZE - bin) % FFT_SIZE)
      const re = output[2 * bin]
      const im = output[2 * bin + 1]
      const mirrorRe = output[mirrored]
      const mirrorIm = output[mirrored + 1]
      powers[0][bin] = (taper[bin] * ((re + mirrorRe) ** 2 + (im - mirrorIm) ** 2)) / 4
      powers[1][bin] = (taper[bin] * ((re - mirrorRe) ** 2 + (im + mirrorIm) ** 2)) / 4
    }
    return powers
  }

  /** The normalised autocorrelations by lag of the spectra read last, less the noise; nothing but noise gives small values everywhere. */
  correlate(noise: Float64Array): Float64Array[] {
    const { powers, input, output, correlations, perWindow } = this
    let noisePower = 0
    for (let bin = 0; bin <= FFT_SIZE / 2; bin++) {
      noisePower += (bin === 0 || bin === FFT_SIZE / 2 ? 1 : 2) * noise[bin]
      for (let side = 0; side < 2; side++) {
        const value = Math.max(0, powers[side][bin] - OVERSUBTRACTION * noise[bin])
        input[2 * bin + side] = value
        if (bin > 0) input[2 * (FFT_SIZE - bin) + side] = value
      }
    }
    this.fft.transform(output, input)
    for (let side = 0; side < 2; side++) {
      const zeroLag = output[side] + NOISE_IN_NORM * noisePower + 1e-9
      for (let lag = 0; lag < MAX_LAG + 2; lag++) correlations[side][lag] = (output[2 * lag + side] / zeroLag) * perWindow[lag]
    }
    return correlations
  }
}

const OVERSUBTRACTION = 1.5
const NOISE_IN_NORM = 1.5

function pickPeaks(correlation: Float64Array, into: Candidates, at: number): void {
  let count = 0
  for (let lag = MIN_LAG; lag <= MAX_LAG; lag++) {
    const here = correlation[lag]
    const before = correlation[lag - 1]
    const after = correlation[lag + 1]
    if (here < LEAST_STRENGTH || here < before || here <= after) continue
    const bend = before - 2 * here + after
    const shift = (0.5 * (before - after)) / bend
    const strength = Math.min(1, here - 0.25 * (before - after) * shift)
    const score = strength - shortLagBonus(lag)
    // The best few stay, in no order.
    let slot = count
    if (count === CANDIDATES) {
      slot = 0
      for (let i = 1; i < CANDIDATES; i++) if (scoreAt(into, at + i) < scoreAt(into, at + slot)) slot = i
      if (scoreAt(into, at + slot) >= score) continue
    } else count++
    into.f0Hz[at + slot] = CANDIDATE_RATE_HZ / (lag + shift)
    into.strength[at + slot] = strength
  }
}

/** Two periods repeat as well as one does: a longer lag must be better to be chosen. */
const OCTAVE_COST = 0.01
const shortLagBonus = (lag: number) => OCTAVE_COST * Math.log2(lag / MIN_LAG)
const scoreAt = (candidates: Candidates, at: number) => candidates.strength[at] - shortLagBonus(CANDIDATE_RATE_HZ / candidates.f0Hz[at])
/** What the path gains by this candidate. */
export function candidateScore(candidates: Candidates, at: number): number {
  return scoreAt(candidates, at)
}
