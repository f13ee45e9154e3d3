/** One band of a sound, lowered where it is too loud: what a de-esser and a dynamic band have in common. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { StereoBiquad, type BiquadCoefficients } from './biquad'
import { Dynamics } from './dynamics'
import type { Follower } from './effect'
import { Glide } from './glide'

export interface BandSettings {
  /** What lets the band through. */
  band: BiquadCoefficients
  /** Of the band's level, as peaks. */
  thresholdDecibels: number
  /** The most that the band is lowered by. */
  rangeDecibels: number
  attackSeconds: number
  releaseSeconds: number
}

const poleOf = (seconds: number) => Math.exp(-1 / (seconds * SAMPLE_RATE_HZ))

/**
 * A share of the band is taken from the sound: where nothing is too loud, the sound passes to the bit. A band lowered by a factor g leaves the
 * response |1 - (1 - g) H|. The detector is the compressor's, without a knee, infinity to one.
 */
export class BandLowering {
  readonly latencyFrames = 0
  private settings: BandSettings
  private readonly filter: StereoBiquad
  private readonly threshold: Glide
  private readonly range: Glide
  private attack = 0
  private release = 0
  /** Held, and smoothed. */
  private readonly dynamics = new Dynamics()

  constructor(settings: BandSettings) {
    this.settings = settings
    this.filter = new StereoBiquad(settings.band)
    this.threshold = new Glide(settings.thresholdDecibels)
    this.range = new Glide(settings.rangeDecibels)
    this.take(settings)
  }

  protected take(settings: BandSettings): void {
    this.settings = settings
    this.filter.set(settings.band)
    this.threshold.set(settings.thresholdDecibels)
    this.range.set(settings.rangeDecibels)
    this.attack = poleOf(settings.attackSeconds)
    this.release = poleOf(settings.releaseSeconds)
  }

  reset(): void {
    this.filter.reset()
    this.threshold.settle()
    this.range.settle()
    this.dynamics.reset()
  }

  makeFollower(): Follower {
    return new BandFollower(this.settings.band, this.dynamics.follow())
  }

  /** Decibels taken from the band at the end of the last block, >= 0. */
  get reductionDecibels(): number {
    return this.dynamics.state[1]
  }

  process(left: Float32Array, right: Float32Array): void {
    const { dynamics, threshold, range, filter } = this
    threshold.advance()
    range.advance()
    const frames = left.length
    const isPair = left !== right
    const kernel = dynamics.begin(left, right)
    const bandLeft = firstOf(kernel.band[0], frames)
    const bandRight = isPair ? firstOf(kernel.band[1], frames) : bandLeft
    bandLeft.set(left)
    if (isPair) bandRight.set(right)
    filter.process(bandLeft, bandRight)
    kernel.lower(isPair ? 1 : 0, frames, threshold.to, range.to, this.attack, this.release)
    dynamics.end(kernel, left, right)
  }
}

function firstOf(block: Float32Array, frames: number): Float32Array {
  return frames === block.length ? block : block.subarray(0, frames)
}

/** Its own band, and of it what was taken of the whole. */
class BandFollower implements Follower {
  private readonly filter: StereoBiquad
  private readonly bandLeft = new Float32Array(BLOCK_FRAMES)
  private readonly bandRight = new Float32Array(BLOCK_FRAMES)

  constructor(
    band: BiquadCoefficients,
    private readonly shares: Float32Array,
  ) {
    this.filter = new StereoBiquad(band)
  }

  process(left: Float32Array, right: Float32Array): void {
    const { bandLeft, bandRight, shares } = this
    bandLeft.set(left)
    bandRight.set(right)
    this.filter.process(bandLeft.subarray(0, left.length), bandRight.subarray(0, left.length))
    for (let i = 0; i < left.length; i++) {
      left[i] -= shares[i] * bandLeft[i]
      right[i] -= shares[i] * bandRight[i]
    }
  }

  reset(): void {
    this.filter.reset()
  }
}
