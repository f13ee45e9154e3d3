/** The pitch of a voice as it comes in, within 30 ms: for hearing oneself tuned. */
import { SAMPLE_RATE_HZ } from '../audio/frames'

const DECIMATION = 4
const RATE_HZ = SAMPLE_RATE_HZ / DECIMATION
const LOWEST_HZ = 75
const HIGHEST_HZ = 1_000
const MAX_LAG = Math.ceil(RATE_HZ / LOWEST_HZ)
const MIN_LAG = Math.floor(RATE_HZ / HIGHEST_HZ)
const WINDOW = 300
const HISTORY = WINDOW + MAX_LAG + 2
/** A look every 256 frames. */
const HOP = 64
/** Normalised difference below which a stretch repeats itself. */
const THRESHOLD = 0.15
const LEAST_POWER = 1e-6

/**
 * Keeps the last 38 ms at a quarter of the rate and looks every 5 ms for the shortest lag at which they repeat.
 * @see A. de Cheveigné and H. Kawahara, YIN, J. Acoust. Soc. Am. 111 (2002): the cumulative mean normalised difference and its threshold.
 */
export class LivePitch {
  /** Hertz; 0 while there is no pitch. */
  hz = 0
  private readonly history = new Float32Array(HISTORY)
  private readonly difference = new Float64Array(MAX_LAG + 2)
  private sinceLook = 0
  private partial = 0
  private partialCount = 0

  reset(): void {
    this.history.fill(0)
    this.hz = 0
    this.sinceLook = this.partial = this.partialCount = 0
  }

  push(block: Float32Array): void {
    const fresh = block.length / DECIMATION
    this.history.copyWithin(0, fresh)
    let at = HISTORY - fresh
    for (let i = 0; i < block.length; i++) {
      // A mean of four: what it lets through above 6 kHz is far from any pitch.
      this.partial += block[i]
      if (++this.partialCount < DECIMATION) continue
      this.history[at++] = this.partial / DECIMATION
      this.partial = this.partialCount = 0
    }
    this.sinceLook += fresh
    if (this.sinceLook < HOP) return
    this.sinceLook = 0
    this.hz = this.look()
  }

  private look(): number {
    const { history, difference } = this
    const newest = HISTORY - WINDOW
    let power = 0
    for (let i = newest; i < HISTORY; i++) power += history[i] * history[i]
    if (power / WINDOW < LEAST_POWER) return 0
    let sum = 0
    difference[0] = 1
    for (let lag = 1; lag <= MAX_LAG + 1; lag++) {
      let total = 0
      for (let i = newest; i < HISTORY; i++) {
        const step = history[i] - history[i - lag]
        total += step * step
      }
      sum += total
      difference[lag] = sum > 0 ? (total * lag) / sum : 1
    }
    for (let lag = MIN_LAG; lag <= MAX_LAG; lag++) {
      if (difference[lag] > THRESHOLD || difference[lag] > difference[lag + 1]) continue
      const bend = difference[lag - 1] - 2 * difference[lag] + difference[lag + 1]
      const shift = bend > 0 ? (0.5 * (difference[lag - 1] - difference[lag + 1])) / bend : 0
      return RATE_HZ / (lag + shift)
    }
    return 0
  }
}
