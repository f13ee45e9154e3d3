/**
 * The voice without its vowels: what is left when each short stretch is predicted from its past, so that moving resonances do not
 * bend the pitch read from it.
 */
import type { Mono } from '../audio/frames'
import { levinson } from '../audio/levinson'

/** One less than a multiple of seven, and a multiple of four. */
const ORDER = 20
const WINDOW_SECONDS = 0.025
const HOP_SECONDS = 0.01
/** White noise added to the prediction, -33 dB: keeps it stable where nearly nothing sounds. */
const WHITENING = 1.0005

/**
 * @param voice One channel at about 24 kHz.
 * @param isWanted Whether anybody will look near a moment; where not, the residual is left silent.
 * @see J. Makhoul, Linear prediction: a tutorial review, Proc. IEEE 63 (1975).
 */
export function predictionResidual(voice: Mono, sampleRateHz: number, isWanted: (seconds: number) => boolean): Mono {
  const size = Math.round(WINDOW_SECONDS * sampleRateHz)
  const hop = Math.round(HOP_SECONDS * sampleRateHz)
  const window = Float64Array.from({ length: size }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size))
  // Led by silence as long as the longest lag.
  const block = new Float64Array(ORDER + size)
  const correlation = new Float64Array(ORDER + 1)
  const predictor = new Float64Array(ORDER + 1)
  const scratch = new Float64Array(ORDER + 1)
  // In doubles: as floats each sample would be converted each time it is read.
  const padded = new Float64Array(voice.length + 2 * size + ORDER)
  padded.set(voice, (size >> 1) + ORDER)
  const residual = new Float32Array(voice.length)
  for (let centre = 0; centre < voice.length; centre += hop) {
    if (!isWanted(centre / sampleRateHz)) continue
    // In `padded` the window round this sample begins here.
    const start = centre + ORDER
    for (let i = 0; i < size; i++) block[ORDER + i] = padded[start + i] * window[i]
    for (let lag = 0; lag <= ORDER; lag += 7) correlateSevenLags(block, lag, correlation)
    levinson(correlation, predictor, scratch, correlation[0] * WHITENING + 1e-9)
    const from = Math.max(0, centre - (hop >> 1))
    const to = Math.min(voice.length, centre + (hop >> 1))
    filter(padded, from + (size >> 1) + ORDER, predictor, residual, from, to)
  }
  return residual
}

/** Seven at a time: the products of different lags do not wait for each other, and each sample is read for all of them. */
function correlateSevenLags(block: Float64Array, lag: number, into: Float64Array): void {
  let [s0, s1, s2, s3, s4, s5, s6] = [0, 0, 0, 0, 0, 0, 0]
  for (let i = ORDER; i < block.length; i++) {
    const here = block[i]
    const at = i - lag
    s0 += here * block[at]
    s1 += here * block[at - 1]
    s2 += here * block[at - 2]
    s3 += here * block[at - 3]
    s4 += here * block[at - 4]
    s5 += here * block[at - 5]
    s6 += here * block[at - 6]
  }
  into[lag] = s0
  into[lag + 1] = s1
  into[lag + 2] = s2
  into[lag + 3] = s3
  into[lag + 4] = s4
  into[lag + 5] = s5
  into[lag + 6] = s6
}

/** In four sums side by side: one alone waits for each addition before the next. */
function filter(signal: Float64Array, at: number, taps: Float64Array, into: Float32Array, from: number, to: number): void {
  for (let i = 0; i < to - from; i++) {
    const here = at + i
    let s0 = signal[here]
    let [s1, s2, s3] = [0, 0, 0]
    for (let k = 1; k < ORDER; k += 4) {
      s0 += taps[k] * signal[here - k]
      s1 += taps[k + 1] * signal[here - k - 1]
      s2 += taps[k + 2] * signal[here - k - 2]
      s3 += taps[k + 3] * signal[here - k - 3]
    }
    into[from + i] = s0 + s1 + s2 + s3
  }
}
