/** Filters as effects: settings in the words of a mix. */
import { z } from 'zod'
import { highPass, highShelf, StereoBiquad } from './biquad'
import type { Effect } from './effect'

export const LowCutSettingsSchema = z.strictObject({ cutoffHz: z.number().min(20).max(400) })
export type LowCutSettings = z.infer<typeof LowCutSettingsSchema>
export const USUAL_LOW_CUT: LowCutSettings = { cutoffHz: 90 }

/** Everything below the cutoff goes, by 12 dB an octave. */
export class LowCut implements Effect<LowCutSettings> {
  readonly latencyFrames = 0
  private readonly filter: StereoBiquad

  constructor({ cutoffHz }: LowCutSettings) {
    this.filter = new StereoBiquad(highPass(cutoffHz))
  }

  set({ cutoffHz }: LowCutSettings): void {
    this.filter.set(highPass(cutoffHz))
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
export class Air implements Effect<AirSettings> {
  readonly latencyFrames = 0
  private readonly filter: StereoBiquad

  constructor({ cornerHz, gainDecibels }: AirSettings) {
    this.filter = new StereoBiquad(highShelf(cornerHz, gainDecibels))
  }

  set({ cornerHz, gainDecibels }: AirSettings): void {
    this.filter.set(highShelf(cornerHz, gainDecibels))
  }

  process(left: Float32Array, right: Float32Array): void {
    this.filter.process(left, right)
  }

  reset(): void {
    this.filter.reset()
  }
}
