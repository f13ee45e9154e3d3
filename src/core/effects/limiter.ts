/** A limiter in a row of effects: the output's ceiling, for one voice or some. */
import { z } from 'zod'
import { decibelsToGain } from '../audio/decibels'
import { Ceiling, CEILING_LATENCY_FRAMES } from './ceiling'
import type { Follower, RowEffect } from './effect'

export const LimiterSettingsSchema = z.strictObject({ ceilingDbfs: z.number().min(-30).max(0) })
export type LimiterSettings = z.infer<typeof LimiterSettingsSchema>
export const USUAL_LIMITER: LimiterSettings = { ceilingDbfs: -6 }

export class Limiter implements RowEffect<LimiterSettings> {
  readonly latencyFrames = CEILING_LATENCY_FRAMES
  private readonly ceiling: Ceiling

  constructor({ ceilingDbfs }: LimiterSettings) {
    this.ceiling = new Ceiling(decibelsToGain(ceilingDbfs))
  }

  get reductionDecibels(): number {
    return this.ceiling.reductionDecibels
  }

  set({ ceilingDbfs }: LimiterSettings): void {
    this.ceiling.set(decibelsToGain(ceilingDbfs))
  }

  makeFollower(): Follower {
    return new DelayedGain(this.ceiling.gains)
  }

  process(left: Float32Array, right: Float32Array): void {
    this.ceiling.process(left, right)
  }

  reset(): void {
    this.ceiling.reset()
  }
}

/** What is turned down comes out a block later, which is just what is held back here. */
class DelayedGain implements Follower {
  private readonly held = [new Float32Array(CEILING_LATENCY_FRAMES), new Float32Array(CEILING_LATENCY_FRAMES)] as const
  private at = 0

  constructor(private readonly gains: Float32Array) {}

  process(left: Float32Array, right: Float32Array): void {
    const { held, gains } = this
    for (let i = 0; i < left.length; i++) {
      const at = (this.at + i) % CEILING_LATENCY_FRAMES
      const [outLeft, outRight] = [held[0][at], held[1][at]]
      held[0][at] = left[i]
      held[1][at] = right[i]
      left[i] = outLeft * gains[i]
      right[i] = outRight * gains[i]
    }
    this.at = (this.at + left.length) % CEILING_LATENCY_FRAMES
  }

  reset(): void {
    for (const side of this.held) side.fill(0)
    this.at = 0
  }
}
