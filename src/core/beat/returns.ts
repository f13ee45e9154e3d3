/** How much a beat is like itself some beats later: loops of chords and drum patterns come back after whole bars. */
import FFT from 'fft.js'
import type { Mono } from '../audio/frames'
import { FEATURE_RATE_HZ, type BeatFeatures } from './features'

/** Beats after which something may come back: two, four, eight … and what speaks for threes. */
export const RETURN_BEATS = [2, 3, 4, 6, 8, 12, 16, 24, 32]
/** Pitch classes, low strokes, high strokes. */
export const RETURN_CURVES = 3

/** Likenesses at each of RETURN_BEATS, curve after curve; around 0 by chance, 1 for a repetition. */
export type ReturnsAt = (beatSeconds: number) => number[]

/** @param slowestBeatSeconds The longest beat that will be asked for. */
export function readReturns({ pitches, onsets }: BeatFeatures, slowestBeatSeconds: number): ReturnsAt {
  const seconds = slowestBeatSeconds * RETURN_BEATS[RETURN_BEATS.length - 1]
  const curves = [
    { rateHz: 1 / pitches.hopSeconds, reach: 1, likeness: likenessByLag(pitchColumns(pitches.treble, pitches.bass), seconds / pitches.hopSeconds) },
    ...[
      [onsets[0], onsets[1]],
      [onsets[3], onsets[4]],
    ].map(strokes => ({ rateHz: FEATURE_RATE_HZ, reach: 3, likeness: likenessByLag(strokes, seconds * FEATURE_RATE_HZ) })),
  ]
  return beatSeconds =>
    curves.flatMap(({ rateHz, reach, likeness }) =>
      RETURN_BEATS.map(beats => {
        const lag = Math.round(beats * beatSeconds * rateHz)
        let most = 0
        for (let near = lag - reach; near <= lag + reach; near++) most = Math.max(most, likeness[near] ?? 0)
        return most
      }),
    )
}

/** The root of each frame's shares, so that loud frames do not drown soft ones: one column for each pitch class, above and in the bass. */
function pitchColumns(treble: Mono, bass: Mono): Mono[] {
  const frames = treble.length / 12
  return [treble, bass].flatMap(chroma => {
    const columns = Array.from({ length: 12 }, () => new Float32Array(frames))
    for (let frame = 0; frame < frames; frame++) {
      let total = 1e-9
      for (let c = 0; c < 12; c++) total += chroma[frame * 12 + c]
      for (let c = 0; c < 12; c++) columns[c][frame] = Math.sqrt(chroma[frame * 12 + c] / total)
    }
    return columns
  })
}

/** The autocorrelation of several columns together, less their means, by fast transform; 1 at lag 0. */
function likenessByLag(columns: Mono[], lags: number): Float64Array {
  const { length } = columns[0]
  const kept = Math.min(length, Math.ceil(lags) + 4)
  let size = 1_024
  while (size < length + kept) size *= 2
  const fft = new FFT(size)
  const power = new Float64Array(2 * size)
  const spectrum = new Float64Array(2 * size)
  const padded = new Float64Array(size)
  for (const column of columns) {
    const mean = column.reduce((sum, value) => sum + value, 0) / length
    for (let i = 0; i < length; i++) padded[i] = column[i] - mean
    fft.realTransform(spectrum, padded)
    for (let bin = 0; bin <= size / 2; bin++) power[2 * bin] += spectrum[2 * bin] ** 2 + spectrum[2 * bin + 1] ** 2
  }
  fft.completeSpectrum(power)
  fft.inverseTransform(spectrum, power)
  const whole = spectrum[0] / length
  return Float64Array.from({ length: kept }, (_, lag) => (whole > 1e-12 ? spectrum[2 * lag] / (length - lag) / whole : 0))
}
