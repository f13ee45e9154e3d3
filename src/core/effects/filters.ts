/** Filters as effects: settings in the words of a mix. */
import { z } from 'zod'
import { BLOCK_FRAMES } from '../audio/frames'
import { highPass, highShelf, lowPass, StereoBiquad, type BiquadCoefficients } from './biquad'
import type { Follower, RowEffect } from './effect'
import { Glide } from './glide'

/** 12 or 24 dB an octave. */
const slopeDecibels = z.number().min(12).max(24).multipleOf(12)
export const LowCutSettingsSchema = z.strictObject({ cutoffHz: z.number().min(20).max(400), slopeDecibels })
export type LowCutSettings = z.infer<typeof LowCutSettingsSchema>
export const USUAL_LOW_CUT: LowCutSettings = { cutoffHz: 90, slopeDecibels: 12 }
export const HighCutSettingsSchema = z.strictObject({ cutoffHz: z.number().min(1_000).max(20_000), slopeDecibels })
export type HighCutSettings = z.infer<typeof HighCutSettingsSchema>
export const USUAL_HIGH_CUT: HighCutSettings = { cutoffHz: 14_000, slopeDecibels: 12 }

type CutSettings = LowCutSettings
type Shape = (cutoffHz: number, q: number) => BiquadCoefficients

/** Butterworth of second and of fourth order: -3 dB at the cutoff. */
const SECOND_ORDER_Q = Math.SQRT1_2
const FOURTH_ORDER_QS = [0.541196, 1.306563] as const

/** The sections of a cut: one of a gentle slope, two of a steep one. */
export function cutSections(shape: Shape, { cutoffHz, slopeDecibels: slope }: CutSettings): BiquadCoefficients[] {
  return slope < 24 ? [shape(cutoffHz, SECOND_ORDER_Q)] : FOURTH_ORDER_QS.map(q => shape(cutoffHz, q))
}

class Cut implements RowEffect<CutSettings> {
  readonly latencyFrames = 0
  private readonly first: StereoBiquad
  /** Comes in and goes out by its share: a section that became flat would ring on its way there. */
  private readonly second: StereoBiquad
  private readonly share: Glide
  private readonly dry = [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)] as const

  constructor(
    private readonly shape: Shape,
    private settings: CutSettings,
  ) {
    this.first = new StereoBiquad(cutSections(shape, settings)[0])
    this.second = new StereoBiquad(shape(settings.cutoffHz, FOURTH_ORDER_QS[1]))
    this.share = new Glide(shareOf(settings))
  }

  set(settings: CutSettings): void {
    this.settings = settings
    this.first.set(cutSections(this.shape, settings)[0])
    this.second.set(this.shape(settings.cutoffHz, FOURTH_ORDER_QS[1]))
    this.share.set(shareOf(settings))
  }

  makeFollower(): Follower {
    return new Cut(this.shape, this.settings)
  }

  process(left: Float32Array, right: Float32Array): void {
    const { share, dry } = this
    share.advance()
    this.first.process(left, right)
    if (share.from === 0 && share.to === 0) return
    const isWhole = share.from === 1 && share.to === 1
    if (!isWhole) {
      dry[0].set(left)
      dry[1].set(right)
    }
    this.second.process(left, right)
    if (isWhole) return
    blend(left, dry[0], share)
    if (left !== right) blend(right, dry[1], share)
  }

  reset(): void {
    this.first.reset()
    this.second.reset()
    this.share.settle()
  }
}

const shareOf = ({ slopeDecibels: slope }: CutSettings) => (slope < 24 ? 0 : 1)

function blend(block: Float32Array, dry: Float32Array, share: Glide): void {
  for (let i = 0; i < block.length; i++) block[i] = dry[i] + share.at(i) * (block[i] - dry[i])
}

/** Everything below the cutoff goes, by 12 or 24 dB an octave. */
export class LowCut extends Cut {
  constructor(settings: LowCutSettings) {
    super(highPass, settings)
  }
}

/** Everything above the cutoff goes, by 12 or 24 dB an octave. */
export class HighCut extends Cut {
  constructor(settings: HighCutSettings) {
    super(lowPass, settings)
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
