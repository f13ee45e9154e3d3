/** Saturation: loud parts of the wave are bent softly, which adds odd overtones. */
import { z } from 'zod'
import { BLOCK_FRAMES } from '../audio/frames'
import { decibelsToGain } from '../audio/decibels'
import { DelayLine } from './delay-line'
import type { Effect } from './effect'
import { Glide } from './glide'
import { Oversampler, OVERSAMPLING, OVERSAMPLING_LATENCY_FRAMES } from './oversampler'

export const SaturationSettingsSchema = z.strictObject({
  /** The louder the wave meets the curve, the more it is bent. */
  driveDecibels: z.number().min(0).max(36),
  /** How much of what comes out is bent; the other part is the sound as it came. */
  amountFraction: z.number().min(0).max(1),
  outputDecibels: z.number().min(-24).max(24),
})
export type SaturationSettings = z.infer<typeof SaturationSettingsSchema>
export const USUAL_SATURATION: SaturationSettings = { driveDecibels: 6, amountFraction: 0.5, outputDecibels: 0 }

/** y = tanh(drive x) / drive at four times the rate: soft sounds pass as they are, none exceeds 1 / drive. Both parts come equally late. */
export class Saturation implements Effect<SaturationSettings> {
  readonly latencyFrames = OVERSAMPLING_LATENCY_FRAMES
  private readonly drive: Glide
  private readonly amount: Glide
  private readonly output: Glide
  private readonly sides = [0, 1].map(() => ({ oversampler: new Oversampler(), dry: new DelayLine(OVERSAMPLING_LATENCY_FRAMES + BLOCK_FRAMES) }))
  private readonly dryBlock = new Float32Array(BLOCK_FRAMES)

  constructor(settings: SaturationSettings) {
    this.drive = new Glide(decibelsToGain(settings.driveDecibels))
    this.amount = new Glide(settings.amountFraction)
    this.output = new Glide(decibelsToGain(settings.outputDecibels))
  }

  set(settings: SaturationSettings): void {
    this.drive.set(decibelsToGain(settings.driveDecibels))
    this.amount.set(settings.amountFraction)
    this.output.set(decibelsToGain(settings.outputDecibels))
  }

  reset(): void {
    for (const glide of [this.drive, this.amount, this.output]) glide.settle()
    for (const { oversampler, dry } of this.sides) {
      oversampler.reset()
      dry.reset()
    }
  }

  process(left: Float32Array, right: Float32Array): void {
    for (const glide of [this.drive, this.amount, this.output]) glide.advance()
    this.processSide(0, left)
    this.processSide(1, right)
  }

  private processSide(side: number, block: Float32Array): void {
    const { drive, amount, output } = this
    const { oversampler, dry } = this.sides[side]
    const dryBlock = block.length === BLOCK_FRAMES ? this.dryBlock : this.dryBlock.subarray(0, block.length)
    dry.write(block)
    dry.read(dryBlock, OVERSAMPLING_LATENCY_FRAMES + block.length)
    oversampler.up(block)
    const { fine } = oversampler
    const step = (drive.to - drive.from) / fine.length
    for (let i = 0; i < OVERSAMPLING * block.length; i++) {
      const gain = drive.from + step * i
      fine[i] = Math.tanh(gain * fine[i]) / gain
    }
    oversampler.down(block)
    for (let i = 0; i < block.length; i++) block[i] = output.at(i) * (dryBlock[i] + amount.at(i) * (block[i] - dryBlock[i]))
  }
}
