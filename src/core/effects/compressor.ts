/** A compressor for two channels that turns both down alike. */
import { z } from 'zod'
import { NEPERS_PER_DECIBEL } from '../audio/decibels'
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { GainFollower, type Follower, type ResetOptions, type RowEffect } from './effect'
import { Glide } from './glide'

export const CompressorSettingsSchema = z.strictObject({
  thresholdDecibels: z.number().min(-60).max(0),
  ratio: z.number().min(1).max(20),
  attackSeconds: z.number().min(0.0005).max(0.2),
  releaseSeconds: z.number().min(0.01).max(2),
  makeupDecibels: z.number().min(-12).max(24),
  /** Over so much round the threshold the ratio comes in. */
  kneeDecibels: z.number().min(0).max(24),
  /** What of the sound goes through it; the rest stays beside it as it was. */
  mixFraction: z.number().min(0).max(1),
})
export type CompressorSettings = z.infer<typeof CompressorSettingsSchema>
/** Set by ear on the demo song's lead. */
export const USUAL_COMPRESSOR: CompressorSettings = {
  thresholdDecibels: -22,
  ratio: 3,
  attackSeconds: 0.008,
  releaseSeconds: 0.12,
  makeupDecibels: 4,
  kneeDecibels: 6,
  mixFraction: 1,
}

/** Output level over input level, both in dBFS, without make-up gain: 1:1 below the knee, 1:ratio above. */
export function compressedDecibels(inputDecibels: number, thresholdDecibels: number, ratio: number, kneeDecibels: number): number {
  const over = inputDecibels - thresholdDecibels
  if (over <= -kneeDecibels / 2) return inputDecibels
  if (over >= kneeDecibels / 2) return thresholdDecibels + over / ratio
  return inputDecibels + ((1 / ratio - 1) * (over + kneeDecibels / 2) ** 2) / (2 * kneeDecibels)
}

/**
 * Feed-forward, in the logarithmic domain, with a smooth decoupled peak detector.
 * @see D. Giannoulis, M. Massberg, J. D. Reiss, Digital dynamic range compressor design, J. Audio Eng. Soc. 60 (2012).
 */
export class StereoCompressor implements RowEffect<CompressorSettings> {
  readonly latencyFrames = 0
  /** Decibels taken away at the end of the last block, >= 0. */
  reductionDecibels = 0
  private readonly threshold: Glide
  private readonly ratio: Glide
  private readonly makeup: Glide
  private readonly knee: Glide
  private readonly mix: Glide
  private attack = 0
  private release = 0
  private readonly gains = new Float32Array(BLOCK_FRAMES)
  private held = 0
  private smoothed = 0

  constructor(settings: CompressorSettings) {
    this.threshold = new Glide(settings.thresholdDecibels)
    this.ratio = new Glide(settings.ratio)
    this.makeup = new Glide(settings.makeupDecibels)
    this.knee = new Glide(settings.kneeDecibels)
    this.mix = new Glide(settings.mixFraction)
    this.set(settings)
  }

  /** Glides to other settings over the next blocks. */
  set(settings: CompressorSettings): void {
    this.threshold.set(settings.thresholdDecibels)
    this.ratio.set(settings.ratio)
    this.makeup.set(settings.makeupDecibels)
    this.knee.set(settings.kneeDecibels)
    this.mix.set(settings.mixFraction)
    this.attack = Math.exp(-1 / (settings.attackSeconds * SAMPLE_RATE_HZ))
    this.release = Math.exp(-1 / (settings.releaseSeconds * SAMPLE_RATE_HZ))
  }

  reset({ goingOn = false }: ResetOptions = {}): void {
    // Of a voice that goes on it still knows how loud it is.
    if (goingOn) return
    this.held = this.smoothed = this.reductionDecibels = 0
    for (const glide of [this.threshold, this.ratio, this.makeup, this.knee, this.mix]) glide.settle()
  }

  makeFollower(): Follower {
    return new GainFollower(this.gains)
  }

  process(left: Float32Array, right: Float32Array): void {
    const { attack, release, threshold, makeup, knee, mix } = this
    for (const glide of [threshold, this.ratio, makeup, knee, mix]) glide.advance()
    const kneeDecibels = knee.to
    const isWhole = mix.from === 1 && mix.to === 1
    const thresholdDecibels = threshold.to
    const ratio = this.ratio.to
    const makeupStep = (makeup.to - makeup.from) / left.length
    // The threshold as a level below which nothing is computed.
    const floor = 10 ** ((thresholdDecibels - kneeDecibels / 2) / 20)
    let { held, smoothed } = this
    let gainDecibels = Number.NaN
    let gain = 1
    const isPair = left !== right
    for (let i = 0; i < left.length; i++) {
      const level = Math.max(Math.abs(left[i]), Math.abs(right[i]))
      let wanted = 0
      if (level > floor) {
        const decibels = Math.log(level) / NEPERS_PER_DECIBEL
        wanted = decibels - compressedDecibels(decibels, thresholdDecibels, ratio, kneeDecibels)
      }
      held = Math.max(wanted, release * held + (1 - release) * wanted)
      smoothed = attack * smoothed + (1 - attack) * held
      // Most of a song nothing is turned down, and then one exponential serves for all.
      const decibels = makeup.from + makeupStep * i - smoothed
      if (decibels !== gainDecibels) {
        gainDecibels = decibels
        gain = Math.exp(NEPERS_PER_DECIBEL * decibels)
      }
      const factor = isWhole ? gain : 1 + mix.at(i) * (gain - 1)
      left[i] *= factor
      if (isPair) right[i] *= factor
      this.gains[i] = factor
    }
    this.held = held < 1e-9 ? 0 : held
    this.smoothed = smoothed < 1e-9 ? 0 : smoothed
    this.reductionDecibels = this.smoothed
  }
}
