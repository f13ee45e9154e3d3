/** A four-band equaliser: a shelf at each end and two bells between. */
import { z } from 'zod'
import { bell, highShelf, lowShelf, StereoBiquad, type BiquadCoefficients } from './biquad'
import type { Follower, RowEffect } from './effect'

const gainDecibels = z.number().min(-18).max(18)
const q = z.number().min(0.2).max(10)

export const EqualiserSettingsSchema = z.strictObject({
  lowShelfHz: z.number().min(30).max(600),
  lowShelfDecibels: gainDecibels,
  lowBellHz: z.number().min(60).max(4_000),
  lowBellDecibels: gainDecibels,
  lowBellQ: q,
  highBellHz: z.number().min(500).max(14_000),
  highBellDecibels: gainDecibels,
  highBellQ: q,
  highShelfHz: z.number().min(1_500).max(18_000),
  highShelfDecibels: gainDecibels,
})
export type EqualiserSettings = z.infer<typeof EqualiserSettingsSchema>
export const FLAT_EQUALISER: EqualiserSettings = {
  lowShelfHz: 150,
  lowShelfDecibels: 0,
  lowBellHz: 400,
  lowBellDecibels: 0,
  lowBellQ: 1,
  highBellHz: 3_000,
  highBellDecibels: 0,
  highBellQ: 1,
  highShelfHz: 9_000,
  highShelfDecibels: 0,
}

/** The filters of its bands, in the order in which the sound passes them. */
export function bandsOf(settings: EqualiserSettings): BiquadCoefficients[] {
  return [
    lowShelf(settings.lowShelfHz, settings.lowShelfDecibels),
    bell(settings.lowBellHz, settings.lowBellDecibels, settings.lowBellQ),
    bell(settings.highBellHz, settings.highBellDecibels, settings.highBellQ),
    highShelf(settings.highShelfHz, settings.highShelfDecibels),
  ]
}

export class Equaliser implements RowEffect<EqualiserSettings> {
  readonly latencyFrames = 0
  private readonly bands: StereoBiquad[]

  constructor(private settings: EqualiserSettings) {
    this.bands = bandsOf(settings).map(band => new StereoBiquad(band))
  }

  set(settings: EqualiserSettings): void {
    this.settings = settings
    bandsOf(settings).forEach((band, i) => this.bands[i].set(band))
  }

  reset(): void {
    for (const band of this.bands) band.reset()
  }

  makeFollower(): Follower {
    return new Equaliser(this.settings)
  }

  process(left: Float32Array, right: Float32Array): void {
    for (const band of this.bands) band.process(left, right)
  }
}
