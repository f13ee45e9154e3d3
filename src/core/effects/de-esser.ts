/** A de-esser for two channels: where the hiss above a frequency is too loud, that band alone is lowered. */
import { z } from 'zod'
import { BandLowering, type BandSettings } from './band-lowering'
import { highPass } from './biquad'
import type { RowEffect } from './effect'

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

function bandOf({ frequencyHz, thresholdDecibels, rangeDecibels }: DeEsserSettings): BandSettings {
  return {
    band: highPass(frequencyHz),
    thresholdDecibels,
    rangeDecibels,
    attackSeconds: DE_ESSER_ATTACK_SECONDS,
    releaseSeconds: DE_ESSER_RELEASE_SECONDS,
  }
}

/** The band is what a high pass lets through. */
export class DeEsser extends BandLowering implements RowEffect<DeEsserSettings> {
  constructor(settings: DeEsserSettings) {
    super(bandOf(settings))
  }

  set(settings: DeEsserSettings): void {
    this.take(bandOf(settings))
  }
}
