/** A de-esser for two channels: where the hiss above a frequency is too loud, that band alone is lowered. */
import { z } from 'zod'
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { decibelsToGain, NEPERS_PER_DECIBEL } from '../audio/decibels'
import { highPass, StereoBiquad } from './biquad'
import type { Follower, RowEffect } from './effect'
import { Glide } from './glide'

export const DeEsserSettingsSchema = z.strictObject({
  /** Esses lie above it. */
  frequencyHz: z.number().min(2_000).max(12_000),
  /** Of the band's level, as peaks. */
  thresholdDecibels: z.number().min(-60).max(0),
  /** The most that the band is lowered by. */
  rangeDecibels: z.number().min(0).max(24),
})
export type DeEsserSettings = z.infer<typeof DeEsserSettingsSchema>
export const USUAL_DE_ESSER: DeEsserSettings = { frequencyHz: 5_500, thresholdDecibels: -28, rangeDecibels: 8 }

/** An ess begins within a few milliseconds and lasts a tenth of a second. */
export const DE_ESSER_ATTACK_SECONDS = 0.001
export const DE_ESSER_RELEASE_SECONDS = 0.04
const ATTACK = Math.exp(-1 / (DE_ESSER_ATTACK_SECONDS * SAMPLE_RATE_HZ))
const RELEASE = Math.exp(-1 / (DE_ESSER_RELEASE_SECONDS * SAMPLE_RATE_HZ))

/**
 * The band is what a high pass lets through, and a share of it is taken from the sound: where nothing is too loud, the sound passes to the
 * bit. A band lowered by a factor g leaves the response |1 - (1 - g) H|. The detector is the compressor's, without a knee, infinity to one.
 */
export class DeEsser implements RowEffect<DeEsserSettings> {
  readonly latencyFrames = 0
  /** Decibels taken from the band at the end of the last block, >= 0. */
  reductionDecibels = 0
  private frequencyHz: number
  private readonly filter: StereoBiquad
  private readonly threshold: Glide
  private readonly range: Glide
  /** How much of the band was taken away, frame by frame. */
  private readonly shares = new Float32Array(BLOCK_FRAMES)
  private readonly bandLeft = new Float32Array(BLOCK_FRAMES)
  private readonly bandRight = new Float32Array(BLOCK_FRAMES)
  private held = 0
  private smoothed = 0

  constructor({ frequencyHz, thresholdDecibels, rangeDecibels }: DeEsserSettings) {
    this.frequencyHz = frequencyHz
    this.filter = new StereoBiquad(highPass(frequencyHz))
    this.threshold = new Glide(thresholdDecibels)
    this.range = new Glide(rangeDecibels)
  }

  set({ frequencyHz, thresholdDecibels, rangeDecibels }: DeEsserSettings): void {
    this.frequencyHz = frequencyHz
    this.filter.set(highPass(frequencyHz))
    this.threshold.set(thresholdDecibels)
    this.range.set(rangeDecibels)
  }

  reset(): void {
    this.filter.reset()
    this.threshold.settle()
    this.range.settle()
    this.held = this.smoothed = this.reductionDecibels = 0
  }

  makeFollower(): Follower {
    return new BandFollower(this.frequencyHz, this.shares)
  }

  process(left: Float32Array, right: Float32Array): void {
    const { threshold, range } = this
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
      held = Math.max(wanted, RELEASE * held + (1 - RELEASE) * wanted)
      smoothed = ATTACK * smoothed + (1 - ATTACK) * held
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
    frequencyHz: number,
    private readonly shares: Float32Array,
  ) {
    this.filter = new StereoBiquad(highPass(frequencyHz))
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
