/** A gate for two channels: what is softer than a voice is lowered, both sides alike. */
import { z } from 'zod'
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { decibelsToGain, NEPERS_PER_DECIBEL } from '../audio/decibels'
import { GainFollower, type Follower, type RowEffect } from './effect'
import { Glide } from './glide'

export const GateSettingsSchema = z.strictObject({
  thresholdDecibels: z.number().min(-80).max(0),
  /** How much a closed gate lowers. */
  rangeDecibels: z.number().min(0).max(60),
  attackSeconds: z.number().min(0.0005).max(0.05),
  /** It stays open for so long after the last sample above the threshold. */
  holdSeconds: z.number().min(0).max(1),
  releaseSeconds: z.number().min(0.01).max(2),
})
export type GateSettings = z.infer<typeof GateSettingsSchema>
export const USUAL_GATE: GateSettings = { thresholdDecibels: -50, rangeDecibels: 18, attackSeconds: 0.002, holdSeconds: 0.12, releaseSeconds: 0.2 }

/** An open gate closes only this far below the threshold, so that a level that wavers round it does not flutter. */
export const HYSTERESIS_DECIBELS = 4

/** Opens and closes as exponentials of the level in decibels: 63 % of the way after the attack, or after the hold and the release. */
export class Gate implements RowEffect<GateSettings> {
  readonly latencyFrames = 0
  private readonly threshold: Glide
  private readonly range: Glide
  private attack = 0
  private release = 0
  private holdFrames = 0
  private heldFrames = 0
  private readonly gains = new Float32Array(BLOCK_FRAMES)
  private reduction: number

  constructor(settings: GateSettings) {
    this.threshold = new Glide(settings.thresholdDecibels)
    this.range = new Glide(settings.rangeDecibels)
    this.set(settings)
    this.reduction = settings.rangeDecibels
  }

  set(settings: GateSettings): void {
    this.threshold.set(settings.thresholdDecibels)
    this.range.set(settings.rangeDecibels)
    this.attack = Math.exp(-1 / (settings.attackSeconds * SAMPLE_RATE_HZ))
    this.release = Math.exp(-1 / (settings.releaseSeconds * SAMPLE_RATE_HZ))
    this.holdFrames = Math.round(settings.holdSeconds * SAMPLE_RATE_HZ)
  }

  /** It begins closed. */
  reset(): void {
    this.threshold.settle()
    this.range.settle()
    this.heldFrames = 0
    this.reduction = this.range.to
  }

  makeFollower(): Follower {
    return new GainFollower(this.gains)
  }

  process(left: Float32Array, right: Float32Array): void {
    const { threshold, range, attack, release, holdFrames } = this
    threshold.advance()
    range.advance()
    const opens = decibelsToGain(threshold.to)
    const staysOpen = decibelsToGain(threshold.to - HYSTERESIS_DECIBELS)
    let { reduction, heldFrames } = this
    const isPair = left !== right
    for (let i = 0; i < left.length; i++) {
      const level = Math.max(Math.abs(left[i]), Math.abs(right[i]))
      // One frame at least, by which it knows that it is open.
      if (level >= (heldFrames > 0 ? staysOpen : opens)) heldFrames = holdFrames + 1
      else if (heldFrames > 0) heldFrames--
      const closed = range.from + ((range.to - range.from) * i) / BLOCK_FRAMES
      reduction = heldFrames > 0 ? attack * reduction : closed + release * (reduction - closed)
      const gain = Math.exp(-NEPERS_PER_DECIBEL * reduction)
      left[i] *= gain
      if (isPair) right[i] *= gain
      this.gains[i] = gain
    }
    this.reduction = reduction < 1e-9 ? 0 : reduction
    this.heldFrames = heldFrames
  }
}
