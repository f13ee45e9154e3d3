/** True peak: the largest value of the sound between its samples, by four-times oversampling. */
import { besselI0, kaiserBeta } from '../audio/window'

const OVERSAMPLING = 4
const HALF_TAPS = 12

const PHASES = makePhases(OVERSAMPLING)
/** A ceiling looks twice as closely: what it misses is heard, what a meter misses is a number. */
const CLOSE_OVERSAMPLING = 8
const CLOSE_PHASES = makePhases(CLOSE_OVERSAMPLING)
/**
 * A top between two samples is only looked for where one of them comes near the peak, or where the cubic through four of them
 * does. For a sine with its top in the middle the samples beside it are cos(pi f / rate) of it: above the first share up to
 * 11 kHz; the cubic's value stays above the second up to 18 kHz; of a higher tone other samples come near.
 */
const NEAR_SHARE = 0.75
const CUBIC_SHARE = 0.54

/**
 * Oversamples one channel four times and remembers the largest absolute value.
 * @see ITU-R BS.1770-4, annex 2. The filter here is a 24-tap Kaiser-windowed sinc a phase (under-reads by less than 0.1 dB up to 20 kHz).
 */
export class TruePeakMeter {
  peak = 0
  private readonly history = new Float64Array(4_096 + 2 * HALF_TAPS)
  private filled = 2 * HALF_TAPS

  /** @param samplePeak The largest sample so far, of any channel: nothing below it needs to be found. */
  push(block: Float32Array, samplePeak = 0): void {
    if (samplePeak > this.peak) this.peak = samplePeak
    const { history } = this
    for (let from = 0; from < block.length;) {
      const count = Math.min(block.length - from, history.length - this.filled)
      for (let i = 0; i < count; i++) history[this.filled + i] = block[from + i]
      this.scan(this.filled + count)
      history.copyWithin(0, this.filled + count - 2 * HALF_TAPS, this.filled + count)
      this.filled = 2 * HALF_TAPS
      from += count
    }
  }

  private scan(end: number): void {
    const { history } = this
    let { peak } = this
    for (let at = 2 * HALF_TAPS; at < end; at++) {
      const near = Math.max(Math.abs(history[at - HALF_TAPS]), Math.abs(history[at - HALF_TAPS + 1]))
      if (near >= peak * NEAR_SHARE || cubicBetween(history, at) >= peak * CUBIC_SHARE) peak = largestBetween(history, at, PHASES, peak)
    }
    this.peak = peak
  }
}

/** A peak is known this many frames after it came. */
export const PEAK_DELAY_FRAMES = HALF_TAPS
const HISTORY_FRAMES = 1_024

/** One channel's peak frame by frame, for a ceiling: of a sample and of what lies between it and the next, where that can matter. */
export class TruePeakDetector {
  private readonly history = new Float64Array(HISTORY_FRAMES)
  /** Where the next frame goes; before it lie at least as many as the filter is long. */
  private at = 2 * HALF_TAPS

  reset(): void {
    this.history.fill(0)
    this.at = 2 * HALF_TAPS
  }

  /** @param near Below this level the exact peak does not matter. @returns the peak from `PEAK_DELAY_FRAMES` ago up to the frame after it. */
  push(sample: number, near: number): number {
    const { history } = this
    if (this.at === HISTORY_FRAMES) {
      history.copyWithin(0, HISTORY_FRAMES - 2 * HALF_TAPS, HISTORY_FRAMES)
      this.at = 2 * HALF_TAPS
    }
    history[this.at] = sample
    const at = this.at++
    const peak = Math.abs(history[at - HALF_TAPS])
    const isNear = Math.max(peak, Math.abs(history[at - HALF_TAPS + 1])) >= near * NEAR_SHARE || cubicBetween(history, at) >= near * CUBIC_SHARE
    return isNear ? largestBetween(history, at, CLOSE_PHASES, peak) : peak
  }
}

/** The level halfway between the two frames in the middle of the filter, by the cubic through four. @param at The newest frame. */
function cubicBetween(history: Float64Array, at: number): number {
  const beside = history[at - HALF_TAPS] + history[at - HALF_TAPS + 1]
  const beyond = history[at - HALF_TAPS - 1] + history[at - HALF_TAPS + 2]
  return Math.abs(9 * beside - beyond) / 16
}

/** The largest level between those two frames, or `peak` if it is larger. */
function largestBetween(history: Float64Array, at: number, phases: readonly Float64Array[], peak: number): number {
  let largest = peak
  for (let phase = 1; phase < phases.length; phase++) {
    const taps = phases[phase]
    let sum = 0
    for (let t = 0; t < 2 * HALF_TAPS; t++) sum += history[at - 2 * HALF_TAPS + 1 + t] * taps[t]
    const level = Math.abs(sum)
    if (level > largest) largest = level
  }
  return largest
}

function makePhases(oversampling: number): Float64Array[] {
  const beta = kaiserBeta(70)
  const norm = besselI0(beta)
  return Array.from({ length: oversampling }, (_, phase) =>
    Float64Array.from({ length: 2 * HALF_TAPS }, (_, t) => {
      const distance = t - HALF_TAPS + 1 - phase / oversampling
      const x = distance / HALF_TAPS
      const window = Math.abs(x) >= 1 ? 0 : besselI0(beta * Math.sqrt(1 - x * x)) / norm
      return distance === 0 ? 1 : (window * Math.sin(Math.PI * distance)) / (Math.PI * distance)
    }),
  )
}
