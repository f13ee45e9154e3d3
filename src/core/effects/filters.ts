/** Filters as effects: settings in the words of a mix. */
import { z } from 'zod'
import { highPass, highShelf, StereoBiquad } from './biquad'
import type { Follower, RowEffect } from './effect'

export const LowCutSettingsSchema = z.strictObject({ cutoffHz: z.number().min(20).max(400) })
export type LowCutSettings = z.infer<typeof LowCutSettingsSchema>
export const USUAL_LOW_CUT: LowCutSettings = { cutoffHz: 90 }

/** Everything below the cutoff goes, by 12 dB an octave. */
export class LowCut implements RowEffect<LowCutSettings> {
  readonly latencyFrames = 0
  private readonly filter: StereoBiquad

  constructor(private settings: LowCutSettings) {
    this.filter = new StereoBiquad(highPass(settings.cutoffHz))
  }

  set(settings: LowCutSettings): void {
    this.settings = settings
    this.filter.set(highPass(settings.cutoffHz))
  }

  makeFollower(): Follower {
    return new LowCut(this.settings)
  }

  process(left: Float32Array, right: Float32Array): void {
    this.filter.process(left, right)
  }

  reset(): void {
    this.filter.reset()
  }
}

export const AirSettingsSchema = z.strictObject({ cornerHz: z.number().min(1_000).max(16_000), gainDecibels: z.number().min(-12).max(12) })
export type AirSettings = z.infer<typeof AirSettingsSchema>
/** Set by ear on the demo song's lead. */
export const USUAL_AIR: AirSettings = { cornerHz: 8_000, gainDecibels: 2.5 }

/** A gentle shelf: what lies above the corner is raised or lowered. */
export class Air implements RowEffect<AirSettings> {
  readonly latencyFrames = 0
  private readonly filter: StereoBiquad

  constructor(private settings: AirSettings) {
    this.filter = new StereoBiquad(highShelf(settings.cornerHz, settings.gainDecibels))
  }

  set(settings: AirSettings): void {
    this.settings = settings
    this.filter.set(highShelf(settings.cornerHz, settings.gainDecibels))
  }

  makeFollower(): Follower {
    return new Air(this.settings)
  }

  process(left: Float32Array, right: Float32Array): void {
    this.filter.process(left, right)
  }

  reset(): void {
    this.filter.reset()
  }
}
