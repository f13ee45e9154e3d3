/** Saturation: loud parts of the wave are bent softly, which adds odd overtones. */
import { z } from 'zod'
import { BLOCK_FRAMES } from '../audio/frames'
import { decibelsToGain } from '../audio/decibels'
import { DelayLine } from './delay-line'
import type { Follower, RowEffect } from './effect'
import { Glide } from './glide'
import { Oversampler, OVERSAMPLING_LATENCY_FRAMES } from './oversampler'

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
export class Saturation implements RowEffect<SaturationSettings> {
  readonly latencyFrames = OVERSAMPLING_LATENCY_FRAMES
  private readonly drive: Glide
  private readonly amount: Glide
  private readonly output: Glide
  private readonly sides = [new Side(), new Side()] as const

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
    for (const side of this.sides) side.reset()
  }

  process(left: Float32Array, right: Float32Array): void {
    const { drive, amount, output, sides } = this
    drive.advance()
    amount.advance()
    output.advance()
    for (let s = 0; s < (left === right ? 1 : 2); s++) {
      const block = s === 0 ? left : right
      sides[s].take(block)
      sides[s].oversampler.bend(block.length, drive.from, drive.to)
      sides[s].give(block, amount, output)
    }
  }

  makeFollower(): Follower {
    return new FactorFollower(this.sides, this.amount, this.output)
  }
}

/** One channel: what is bent, and beside it, equally late, what is not. */
class Side {
  readonly oversampler = new Oversampler()
  private readonly dry = new DelayLine(OVERSAMPLING_LATENCY_FRAMES + BLOCK_FRAMES)
  private readonly dryBlock = new Float32Array(BLOCK_FRAMES)

  take(block: Float32Array): void {
    this.dry.write(block)
    this.oversampler.up(block)
  }

  give(block: Float32Array, amount: Glide, output: Glide): void {
    this.oversampler.down(block)
    const dryBlock = block.length === BLOCK_FRAMES ? this.dryBlock : this.dryBlock.subarray(0, block.length)
    this.dry.read(dryBlock, OVERSAMPLING_LATENCY_FRAMES + block.length)
    const share = amount.from
    const shareStep = (amount.to - share) / BLOCK_FRAMES
    const level = output.from
    const levelStep = (output.to - level) / BLOCK_FRAMES
    for (let i = 0; i < block.length; i++) block[i] = (level + levelStep * i) * (dryBlock[i] + (share + shareStep * i) * (block[i] - dryBlock[i]))
  }

  reset(): void {
    this.oversampler.reset()
    this.dry.reset()
  }
}

/** Lowers each fine sample of a part by as much as that of the whole was. */
class FactorFollower implements Follower {
  private readonly sides = [new Side(), new Side()] as const

  constructor(
    private readonly whole: readonly [Side, Side],
    private readonly amount: Glide,
    private readonly output: Glide,
  ) {}

  process(left: Float32Array, right: Float32Array): void {
    for (let s = 0; s < 2; s++) {
      const block = s === 0 ? left : right
      this.sides[s].take(block)
      this.sides[s].oversampler.bendAs(this.whole[s].oversampler, block.length)
      this.sides[s].give(block, this.amount, this.output)
    }
  }

  reset(): void {
    for (const side of this.sides) side.reset()
  }
}
