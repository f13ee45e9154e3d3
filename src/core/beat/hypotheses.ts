/** Every reading of a beat that might be meant - tempo, metre, where bar one falls - and what speaks for each. */
import type { Mono } from '../audio/frames'
import { FEATURE_RATE_HZ, ONSET_BANDS, type BeatFeatures } from './features'
import { pulseSpectrum } from './pulse'
import { readReturns, RETURN_BEATS, RETURN_CURVES } from './returns'

export const METERS = [
  { meter: [4, 4], beatsPerBar: 4, beatUnit: 'quarter', map: null },
  { meter: [12, 8], beatsPerBar: 4, beatUnit: 'quarter', map: null },
  { meter: [6, 8], beatsPerBar: 2 },
  { meter: [3, 4], beatsPerBar: 3 },
] as const
export type MeterIndex = 0 | 1 | 2 | 3

export interface Hypothesis {
  tempoBpm: number
  meter: MeterIndex
  /** Hops from the start of the file to a bar one, within the first bar. */
  barOneHop: number
  /** What `meter-model` reads: FOUR_INPUTS of them, or THREE_INPUTS for 3/4. */
  evidence: Float32Array
}

/** A fold is over twelve beats, so that bars of two, three and four beats all come round. */
const FOLD_BEATS = 12
const BINS_PER_BEAT = 24
const FOLD_BINS = FOLD_BEATS * BINS_PER_BEAT
/** Places in the beat where an onset is looked for, in bins: sixteenths and triplets. */
const ONSET_PLACES = [0, 6, 8, 12, 16, 18]
const CHANGE_PLACES = [0]
const CHANGES = 3
const EVIDENCE_PER_BEAT = ONSET_BANDS * ONSET_PLACES.length + CHANGES * CHANGE_PLACES.length
const SHIFT_BEATS = [1, 2, 3, 4, 6]
const TEMPO_CENTRES = [-1.2, -0.9, -0.6, -0.3, 0, 0.3, 0.6, 0.9]
const STRENGTH_HARMONICS = [0.25, 1 / 3, 0.5, 1, 1.5, 2, 3, 4, 6]
const SHARED_INPUTS = SHIFT_BEATS.length * 5 + TEMPO_CENTRES.length + STRENGTH_HARMONICS.length + RETURN_BEATS.length * RETURN_CURVES + 3
const MAX_PHASES = 3

/** All hypotheses for the given tempos. */
export function proposeReadings(features: BeatFeatures, tempos: number[]): Hypothesis[] {
  if (tempos.length === 0) return []
  const spectrum = pulseSpectrum(features.allOnsets)
  const returnsAt = readReturns(features, 60 / Math.min(...tempos))
  return tempos.flatMap(tempoBpm => {
    const hz = tempoBpm / 60
    const period = FEATURE_RATE_HZ / hz
    const fold = (curve: Mono) => foldCurve(curve, period)
    const onsets = features.onsets.map(fold)
    const all = fold(features.allOnsets)
    const changes = [features.chordChange, features.bassChange, features.textureChange].map(fold)
    const shifts = [sumOf([onsets[0], onsets[1]]), sumOf([onsets[3], onsets[4]]), ...changes].flatMap(curve =>
      SHIFT_BEATS.map(beats => selfLikeness(curve, beats * BINS_PER_BEAT)),
    )
    const octave = Math.log2(tempoBpm / 100)
    const shared = [
      ...shifts,
      ...TEMPO_CENTRES.map(centre => Math.exp(-(((octave - centre) / 0.3) ** 2))),
      ...STRENGTH_HARMONICS.map(harmonic => 4 * spectrum.magnitudeAt(harmonic * hz)),
      ...returnsAt(1 / hz),
    ]
    return beatPhases(all).flatMap(phaseBin =>
      METERS.flatMap(({ beatsPerBar }, index) =>
        Array.from({ length: beatsPerBar }, (_, offset): Hypothesis => {
          const startBin = phaseBin + offset * BINS_PER_BEAT
          const barOneHop = (startBin / BINS_PER_BEAT) * period
          return {
            tempoBpm,
            meter: index as MeterIndex,
            barOneHop,
            evidence: gatherEvidence({
              onsets,
              changes,
              startBin,
              beatsPerBar,
              shared,
              first: firstSoundEvidence(features.firstSoundHop, barOneHop, period, beatsPerBar),
            }),
          }
        }),
      ),
    )
  })
}

/** The mean of a curve over all stretches of twelve beats, in bins. */
function foldCurve(curve: Mono, period: number): Float64Array {
  const sums = new Float64Array(FOLD_BINS)
  const weights = new Float64Array(FOLD_BINS)
  const step = BINS_PER_BEAT / period
  for (let i = 0; i < curve.length; i++) {
    const at = (i * step) % FOLD_BINS
    const whole = Math.floor(at)
    const part = at - whole
    const next = whole + 1 === FOLD_BINS ? 0 : whole + 1
    sums[whole] += (1 - part) * curve[i]
    weights[whole] += 1 - part
    sums[next] += part * curve[i]
    weights[next] += part
  }
  return sums.map((sum, bin) => (weights[bin] > 0 ? sum / weights[bin] : 0))
}

/** Bins of the beat where a beat may fall: the highest places of the fold, at most three. */
function beatPhases(all: Float64Array): number[] {
  const beat = Array.from({ length: BINS_PER_BEAT }, (_, bin) => {
    let sum = 0
    for (let k = 0; k < FOLD_BEATS; k++) sum += all[bin + k * BINS_PER_BEAT]
    return sum
  })
  const smooth = beat.map((_, bin) => 0.25 * circular(beat, bin - 1) + 0.5 * beat[bin] + 0.25 * circular(beat, bin + 1))
  const highest = Math.max(...smooth)
  return smooth
    .map((value, bin) => ({ value, bin }))
    .filter(({ value, bin }) => value > 0.25 * highest && value >= circular(smooth, bin - 1) && value > circular(smooth, bin + 1))
    .sort((a, b) => b.value - a.value)
    .slice(0, MAX_PHASES)
    .map(({ bin }) => {
      const [a, b, c] = [circular(smooth, bin - 1), smooth[bin], circular(smooth, bin + 1)]
      return bin + (a - 2 * b + c < -1e-12 ? (0.5 * (a - c)) / (a - 2 * b + c) : 0)
    })
}

interface EvidenceParts {
  onsets: Float64Array[]
  changes: Float64Array[]
  startBin: number
  beatsPerBar: number
  shared: number[]
  first: number[]
}

function gatherEvidence({ onsets, changes, startBin, beatsPerBar, shared, first }: EvidenceParts): Float32Array {
  const beats = beatsPerBar === 3 ? 3 : 4
  const evidence = new Float32Array(beats * EVIDENCE_PER_BEAT + SHARED_INPUTS)
  const repeats = FOLD_BEATS / beatsPerBar
  let at = 0
  for (let beat = 0; beat < beats; beat++) {
    const read = (fold: Float64Array, place: number) => {
      let sum = 0
      for (let bar = 0; bar < repeats; bar++) sum += readSmooth(fold, startBin + place + ((beat % beatsPerBar) + bar * beatsPerBar) * BINS_PER_BEAT)
      return Math.sqrt(Math.max(0, sum / repeats)) - 0.7
    }
    for (const fold of onsets) for (const place of ONSET_PLACES) evidence[at++] = read(fold, place)
    for (const fold of changes) for (const place of CHANGE_PLACES) evidence[at++] = 2 * read(fold, place)
  }
  for (const value of shared) evidence[at++] = value
  for (const value of first) evidence[at++] = value
  return evidence
}

/** How near the first sound lies to a bar one, to any beat, and to a bar one when the file does not begin in the middle of a sound. */
function firstSoundEvidence(firstSoundHop: number, barOneHop: number, period: number, beatsPerBar: number): number[] {
  const near = (cycle: number) => {
    const distance = firstSoundHop - barOneHop
    const folded = distance - Math.round(distance / cycle) * cycle
    return Math.exp(-((folded / 6) ** 2))
  }
  const onBar = near(period * beatsPerBar)
  return [onBar, near(period), firstSoundHop > 0.3 ? onBar : 0]
}

function readSmooth(fold: Float64Array, bin: number): number {
  return 0.5 * readBin(fold, bin) + 0.25 * (readBin(fold, bin - 1) + readBin(fold, bin + 1))
}

function readBin(fold: Float64Array, bin: number): number {
  const wrapped = ((bin % FOLD_BINS) + FOLD_BINS) % FOLD_BINS
  const whole = Math.floor(wrapped)
  const next = whole + 1 >= FOLD_BINS ? 0 : whole + 1
  return fold[whole] + (wrapped - whole) * (fold[next] - fold[whole])
}

/** Correlation of a fold with itself turned by some bins, -1..1. */
function selfLikeness(fold: Float64Array, shift: number): number {
  let mean = 0
  for (const value of fold) mean += value / FOLD_BINS
  let product = 0
  let power = 1e-9
  for (let bin = 0; bin < FOLD_BINS; bin++) {
    product += (fold[bin] - mean) * (fold[(bin + shift) % FOLD_BINS] - mean)
    power += (fold[bin] - mean) ** 2
  }
  return product / power
}

function sumOf(folds: Float64Array[]): Float64Array {
  return folds[0].map((value, bin) => folds.slice(1).reduce((sum, fold) => sum + fold[bin], value))
}

function circular(values: number[], index: number): number {
  return values[(index + values.length) % values.length]
}
