/** A gate for two channels: what is softer than a voice is lowered, both sides alike. */
import { z } from 'zod'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { decibelsToGain } from '../audio/decibels'
import { Dynamics } from './dynamics'
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
  /** How far it is closed, in decibels, and for how many frames it stays open. */
  private readonly dynamics = new Dynamics()

  constructor(settings: GateSettings) {
    this.threshold = new Glide(settings.thresholdDecibels)
    this.range = new Glide(settings.rangeDecibels)
    this.set(settings)
    this.dynamics.state[0] = settings.rangeDecibels
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
    this.dynamics.reset()
    this.dynamics.state[0] = this.range.to
  }

  makeFollower(): Follower {
    return new GainFollower(this.dynamics.follow())
  }

  process(left: Float32Array, right: Float32Array): void {
    const { dynamics, threshold, range } = this
    threshold.advance()
    range.advance()
    const frames = left.length
    const kernel = dynamics.begin(left, right)
    kernel.gate(
      left === right ? 0 : 1,
      frames,
      decibelsToGain(threshold.to),
      decibelsToGain(threshold.to - HYSTERESIS_DECIBELS),
      this.holdFrames,
      range.from,
      (range.to - range.from) / frames,
      this.attack,
      this.release,
    )
    dynamics.end(kernel, left, right)
  }
}
