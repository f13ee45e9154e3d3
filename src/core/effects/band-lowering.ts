/** One band of a sound, lowered where it is too loud: what a de-esser and a dynamic band have in common. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { decibelsToGain, NEPERS_PER_DECIBEL } from '../audio/decibels'
import { StereoBiquad, type BiquadCoefficients } from './biquad'
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
  /** Decibels taken from the band at the end of the last block, >= 0. */
  reductionDecibels = 0
  private settings: BandSettings
  private readonly filter: StereoBiquad
  private readonly threshold: Glide
  private readonly range: Glide
  private attack = 0
  private release = 0
  /** How much of the band was taken away, frame by frame. */
  private readonly shares = new Float32Array(BLOCK_FRAMES)
  private readonly bandLeft = new Float32Array(BLOCK_FRAMES)
  private readonly bandRight = new Float32Array(BLOCK_FRAMES)
  private held = 0
  private smoothed = 0

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
    this.held = this.smoothed = this.reductionDecibels = 0
  }

  makeFollower(): Follower {
    return new BandFollower(this.settings.band, this.shares)
  }
  process(left: Float32Array, right: Float32Array): void {
    const { threshold, range, attack, release } = this
    const isPair = left !== right
    const bandLeft = left.length === BLOCK_FRAMES ? this.bandLeft : this.bandLeft.subarray(0, left.length)
    const bandRight = !isPair ? bandLeft : left.length === BLOCK_FRAMES ? this.bandRight : this.bandRight.subarray(0, left.length)
    bandLeft.set(left)
    if (isPair) bandRight.set(right)
    this.filter.process(bandLeft, bandRight)
    threshold.advance()
    range.advance()
    const floor = decibelsToGain(threshold.to)
    let { held, smoothed } = this
    for (let i = 0; i < left.length; i++) {
      const level = Math.max(Math.abs(bandLeft[i]), Math.abs(bandRight[i]))
      const wanted = level > floor ? Math.min(range.to, Math.log(level / floor) / NEPERS_PER_DECIBEL) : 0
      held = Math.max(wanted, release * held + (1 - release) * wanted)
      smoothed = attack * smoothed + (1 - attack) * held
      const share = smoothed === 0 ? 0 : 1 - Math.exp(-NEPERS_PER_DECIBEL * smoothed)
      left[i] -= share * bandLeft[i]
      if (isPair) right[i] -= share * bandRight[i]
      this.shares[i] = share
    }
    this.held = held < 1e-9 ? 0 : held
    this.smoothed = smoothed < 1e-9 ? 0 : smoothed
    this.reductionDecibels = this.smoothed
  }
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
