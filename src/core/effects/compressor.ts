/** A compressor for two channels that turns both down alike. */
import { z } from 'zod'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { Dynamics } from './dynamics'
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
  private readonly threshold: Glide
  private readonly ratio: Glide
  private readonly makeup: Glide
  private readonly knee: Glide
  private readonly mix: Glide
  private attack = 0
  private release = 0
  /** Held, and smoothed. */
  private readonly dynamics = new Dynamics()

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
    this.dynamics.reset()
    for (const glide of [this.threshold, this.ratio, this.makeup, this.knee, this.mix]) glide.settle()
  }

  makeFollower(): Follower {
    return new GainFollower(this.dynamics.follow())
  }

  /** Decibels taken away at the end of the last block, >= 0. */
  get reductionDecibels(): number {
    return this.dynamics.state[1]
  }

  process(left: Float32Array, right: Float32Array): void {
    const { dynamics, threshold, ratio, makeup, knee, mix } = this
    threshold.advance()
    ratio.advance()
    makeup.advance()
    knee.advance()
    mix.advance()
    const frames = left.length
    const kernel = dynamics.begin(left, right)
    kernel.compress(
      left === right ? 0 : 1,
      frames,
      threshold.to - knee.to / 2,
      knee.to,
      1 - 1 / ratio.to,
      this.attack,
      this.release,
      makeup.from,
      (makeup.to - makeup.from) / frames,
      mix.from,
      (mix.to - mix.from) / frames,
    )
    dynamics.end(kernel, left, right)
  }
}
