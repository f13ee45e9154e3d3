/**
 * The voice without its vowels: what is left when each short stretch is predicted from its past, so that moving resonances do not
 * bend the pitch read from it.
 */
import type { Mono } from '../audio/frames'
import { levinson } from '../audio/levinson'

/** One less than a multiple of three, and even. */
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
  const padded = new Float32Array(voice.length + 2 * size + ORDER)
  padded.set(voice, (size >> 1) + ORDER)
  const residual = new Float32Array(voice.length)
  for (let centre = 0; centre < voice.length; centre += hop) {
    if (!isWanted(centre / sampleRateHz)) continue
    // In `padded` the window round this sample begins here.
    const start = centre + ORDER
    for (let i = 0; i < size; i++) block[ORDER + i] = padded[start + i] * window[i]
    for (let lag = 0; lag <= ORDER; lag += 3) correlateThreeLags(block, lag, correlation)
    levinson(correlation, predictor, scratch, correlation[0] * WHITENING + 1e-9)
    const from = Math.max(0, centre - (hop >> 1))
    const to = Math.min(voice.length, centre + (hop >> 1))
    filter(padded, from + (size >> 1) + ORDER, predictor, residual, from, to)
  }
  return residual
}

/** Three at a time: the products of different lags do not wait for each other. */
function correlateThreeLags(block: Float64Array, lag: number, into: Float64Array): void {
  let s0 = 0
  let s1 = 0
  let s2 = 0
  for (let i = ORDER; i < block.length; i++) {
    const here = block[i]
    s0 += here * block[i - lag]
    s1 += here * block[i - lag - 1]
    s2 += here * block[i - lag - 2]
  }
  into[lag] = s0
  into[lag + 1] = s1
  into[lag + 2] = s2
}

/** In two sums side by side: one alone waits for each addition before the next. */
function filter(signal: Float32Array, at: number, taps: Float64Array, into: Float32Array, from: number, to: number): void {
  for (let i = 0; i < to - from; i++) {
    const here = at + i
    let even = signal[here]
    let odd = 0
    for (let k = 1; k < ORDER; k += 2) {
      odd += taps[k] * signal[here - k]
      even += taps[k + 1] * signal[here - k - 1]
    }
    into[from + i] = even + odd
  }
}
