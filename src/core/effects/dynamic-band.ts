/** A dynamic band: what booms or barks in it is lowered while it does, and left alone while it does not. */
import { z } from 'zod'
import { BandLowering, type BandSettings } from './band-lowering'
import { bandPass } from './biquad'
import type { RowEffect } from './effect'

export const DynamicBandSettingsSchema = z.strictObject({
  frequencyHz: z.number().min(60).max(12_000),
  bandQ: z.number().min(0.3).max(6),
  /** Of the band's level, as peaks. */
  thresholdDecibels: z.number().min(-60).max(0),
  /** The most that the band is lowered by. */
  rangeDecibels: z.number().min(0).max(18),
  attackSeconds: z.number().min(0.001).max(0.1),
  releaseSeconds: z.number().min(0.02).max(1),
})
export type DynamicBandSettings = z.infer<typeof DynamicBandSettingsSchema>
/** Where many voices are boxy; set by ear on the demo song. */
export const USUAL_DYNAMIC_BAND: DynamicBandSettings = {
  frequencyHz: 400,
  bandQ: 1.2,
  thresholdDecibels: -30,
  rangeDecibels: 6,
  attackSeconds: 0.01,
  releaseSeconds: 0.15,
}

function bandOf({ frequencyHz, bandQ, ...others }: DynamicBandSettings): BandSettings {
  return { band: bandPass(frequencyHz, bandQ), ...others }
}

/** The band is a resonance, 0 dB in its middle. */
export class DynamicBand extends BandLowering implements RowEffect<DynamicBandSettings> {
  constructor(settings: DynamicBandSettings) {
    super(bandOf(settings))
  }

  set(settings: DynamicBandSettings): void {
    this.take(bandOf(settings))
  }
}
