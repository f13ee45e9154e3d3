/** The output's ceiling: no peak leaves above it, neither a sample nor what lies between two; below it nothing is changed at all. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { PEAK_DELAY_FRAMES, TruePeakDetector } from '../loudness/true-peak'

/** The ceiling looks one block ahead; the renderer takes this delay off. */
export const CEILING_LATENCY_FRAMES = BLOCK_FRAMES
/** Of the block the peak detector takes a few frames; the gain comes down over the remaining frames. */
const WINDOW = CEILING_LATENCY_FRAMES - PEAK_DELAY_FRAMES + 1
const RELEASE_SECONDS = 0.08
/** A changed ceiling is reached over this many frames. */
const GLIDE_FRAMES = 4 * BLOCK_FRAMES

/**
 * A look-ahead limiter for true peaks: the least gain needed within the window, released slowly, averaged over the window, so that
 * the gain is there when the peak comes out. The output is the input `CEILING_LATENCY_FRAMES` later.
 * @see D. Giannoulis et al. (2012) for the detector; the sliding minimum is D. Lemire's, Nordic J. Computing 13 (2006).
 */
export class Ceiling {
  /** Decibels taken away at the end of the last block, >= 0. */
  reductionDecibels = 0
  /** Of the last block of at most BLOCK_FRAMES, frame by frame. */
  readonly gains = new Float32Array(BLOCK_FRAMES)
  private readonly release: number
  private readonly detectors = [new TruePeakDetector(), new TruePeakDetector()]
  private readonly delayLeft = new Float32Array(CEILING_LATENCY_FRAMES)
  private readonly delayRight = new Float32Array(CEILING_LATENCY_FRAMES)
  private readonly minimumValue = new Float64Array(WINDOW + 1)
  private readonly minimumAt = new Float64Array(WINDOW + 1)
  private head = 0
  private count = 0
  private frame = 0
  private released = 1
  private readonly averaged = new Float64Array(WINDOW).fill(1)
  private sum = WINDOW
  private target: number
  private glide = 0
  private glideFrames = 0

  /** @param ceiling Linear, > 0. @param sampleRateHz Of what is processed. */
  constructor(
    private ceiling: number,
    sampleRateHz: number = SAMPLE_RATE_HZ,
  ) {
    this.target = ceiling
    this.release = Math.exp(-1 / (RELEASE_SECONDS * sampleRateHz))
  }

  /** Glides to another ceiling over the next blocks. */
  set(ceiling: number): void {
    if (ceiling === this.target) return
    this.target = ceiling
    this.glideFrames = GLIDE_FRAMES
    this.glide = (ceiling - this.ceiling) / GLIDE_FRAMES
  }

  reset(): void {
    for (const detector of this.detectors) detector.reset()
    this.delayLeft.fill(0)
    this.delayRight.fill(0)
    this.averaged.fill(1)
    this.sum = WINDOW
    this.head = this.count = this.frame = 0
    this.released = 1
    this.ceiling = this.target
    this.glideFrames = 0
  }

  /** In place; any block length. */
  process(left: Float32Array, right: Float32Array): void {
    const { delayLeft, delayRight, averaged } = this
    const [leftPeaks, rightPeaks] = this.detectors
    let gain = 1
    for (let i = 0; i < left.length; i++) {
      if (this.glideFrames > 0) this.ceiling = --this.glideFrames === 0 ? this.target : this.ceiling + this.glide
      const { ceiling } = this
      const level = Math.max(leftPeaks.push(left[i], ceiling), rightPeaks.push(right[i], ceiling))
      const least = this.slideMinimum(level > ceiling ? ceiling / level : 1)
      this.released = least < this.released ? least : least + this.release * (this.released - least)
      if (this.released > 0.9999999 && least === 1) this.released = 1
      const slot = this.frame % WINDOW
      this.sum += this.released - averaged[slot]
      averaged[slot] = this.released
      gain = this.count === 1 && this.released === 1 && this.sum > WINDOW - 1e-7 ? 1 : Math.min(1, this.sum / WINDOW)
      const at = this.frame % CEILING_LATENCY_FRAMES
      const outLeft = delayLeft[at]
      const outRight = delayRight[at]
      delayLeft[at] = left[i]
      delayRight[at] = right[i]
      left[i] = outLeft * gain
      right[i] = outRight * gain
      this.gains[i] = gain
      this.frame++
    }
    this.reductionDecibels = gain >= 1 ? 0 : -20 * Math.log10(gain)
  }

  private slideMinimum(value: number): number {
    const { minimumValue, minimumAt } = this
    const size = WINDOW + 1
    while (this.count > 0 && minimumValue[(this.head + this.count - 1) % size] >= value) this.count--
    const slot = (this.head + this.count) % size
    minimumValue[slot] = value
    minimumAt[slot] = this.frame
    this.count++
    if (minimumAt[this.head] <= this.frame - WINDOW) {
      this.head = (this.head + 1) % size
      this.count--
    }
    return minimumValue[this.head]
  }
}
