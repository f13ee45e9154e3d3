/** Width of what is wide already: how much of the difference of both sides stays, and from where on down they are one. */
import { z } from 'zod'
import { BLOCK_FRAMES } from '../audio/frames'
import { highPass, StereoBiquad } from './biquad'
import type { Follower, RowEffect } from './effect'
import { Glide } from './glide'

const LEAST_HZ = 20
export const WidthSettingsSchema = z.strictObject({
  /** 0: both sides are one; 1: as they were; 2: their difference is doubled. */
  widthFraction: z.number().min(0).max(2),
  /** Below this nothing lies at the sides; at its least everything may. */
  middleBelowHz: z.number().min(LEAST_HZ).max(500),
})
export type WidthSettings = z.infer<typeof WidthSettingsSchema>
export const USUAL_WIDTH: WidthSettings = { widthFraction: 1, middleBelowHz: 150 }

/** What both sides have in common passes to the bit. One voice has no sides: it passes as it is. */
export class Width implements RowEffect<WidthSettings> {
  readonly latencyFrames = 0
  private readonly width: Glide
  private readonly lowCut: StereoBiquad
  private readonly side = new Float32Array(BLOCK_FRAMES)

  constructor(private settings: WidthSettings) {
    this.width = new Glide(settings.widthFraction)
    this.lowCut = new StereoBiquad(highPass(settings.middleBelowHz))
  }

  set(settings: WidthSettings): void {
    this.settings = settings
    this.width.set(settings.widthFraction)
    this.lowCut.set(highPass(settings.middleBelowHz))
  }

  makeFollower(): Follower {
    return new Width(this.settings)
  }

  process(left: Float32Array, right: Float32Array): void {
    this.width.advance()
    if (left === right) return
    const { width } = this
    const side = left.length === BLOCK_FRAMES ? this.side : this.side.subarray(0, left.length)
    for (let i = 0; i < left.length; i++) side[i] = 0.5 * (left[i] - right[i])
    if (this.settings.middleBelowHz > LEAST_HZ) this.lowCut.process(side, side)
    for (let i = 0; i < left.length; i++) {
      const middle = 0.5 * (left[i] + right[i])
      const apart = width.at(i) * side[i]
      left[i] = middle + apart
      right[i] = middle - apart
    }
  }

  reset(): void {
    this.width.settle()
    this.lowCut.reset()
  }
}
