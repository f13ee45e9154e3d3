/** Saturation: loud parts of the wave are bent softly, which adds odd overtones. */
import { z } from 'zod'
import { BLOCK_FRAMES } from '../audio/frames'
import { decibelsToGain } from '../audio/decibels'
import { DelayLine } from './delay-line'
import type { Follower, RowEffect } from './effect'
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
export class Saturation implements RowEffect<SaturationSettings> {
  readonly latencyFrames = OVERSAMPLING_LATENCY_FRAMES
  private readonly drive: Glide
  private readonly amount: Glide
  private readonly output: Glide
  private readonly sides = new Sides()
  /** By how much each fine sample of either side was lowered. */
  private readonly factors = [0, 1].map(() => new Float32Array(OVERSAMPLING * BLOCK_FRAMES))

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
    this.sides.reset()
  }

  process(left: Float32Array, right: Float32Array): void {
    for (const glide of [this.drive, this.amount, this.output]) glide.advance()
    this.sides.take(left, right)
    for (let side = 0; side < (left === right ? 1 : 2); side++) this.bend(this.sides.fine[side], this.factors[side], OVERSAMPLING * left.length)
    this.sides.give(left, right, this.amount, this.output)
  }

  private bend(fine: Float32Array, factors: Float32Array, frames: number): void {
    const { drive } = this
    const step = (drive.to - drive.from) / fine.length
    for (let i = 0; i < frames; i++) {
      const driven = (drive.from + step * i) * fine[i]
      // The curve as a factor: 1 at silence. By the exponential, which takes a third of the time that Math.tanh does.
      factors[i] = Math.abs(driven) < 1e-4 ? 1 : (1 - 2 / (Math.exp(2 * driven) + 1)) / driven
      fine[i] *= factors[i]
    }
  }

  makeFollower(): Follower {
    return new FactorFollower(this.factors, this.amount, this.output)
  }
}

/** What is bent, and beside it, equally late, what is not. */
class Sides {
  private readonly oversampler = new Oversampler()
  private readonly dry = [0, 1].map(() => new DelayLine(OVERSAMPLING_LATENCY_FRAMES + BLOCK_FRAMES))
  private readonly dryBlock = new Float32Array(BLOCK_FRAMES)

  /** The block at the higher rate, to be bent in place. */
  get fine(): Oversampler['fine'] {
    return this.oversampler.fine
  }

  take(left: Float32Array, right: Float32Array): void {
    this.dry[0].write(left)
    if (left !== right) this.dry[1].write(right)
    this.oversampler.up(left, right)
  }

  give(left: Float32Array, right: Float32Array, amount: Glide, output: Glide): void {
    this.oversampler.down(left, right)
    for (let side = 0; side < (left === right ? 1 : 2); side++) {
      const block = side === 0 ? left : right
      const dryBlock = block.length === BLOCK_FRAMES ? this.dryBlock : this.dryBlock.subarray(0, block.length)
      this.dry[side].read(dryBlock, OVERSAMPLING_LATENCY_FRAMES + block.length)
      for (let i = 0; i < block.length; i++) block[i] = output.at(i) * (dryBlock[i] + amount.at(i) * (block[i] - dryBlock[i]))
    }
  }

  reset(): void {
    this.oversampler.reset()
    for (const line of this.dry) line.reset()
  }
}

/** Lowers each fine sample of a part by as much as that of the whole was. */
class FactorFollower implements Follower {
  private readonly sides = new Sides()

  constructor(
    private readonly factors: readonly Float32Array[],
    private readonly amount: Glide,
    private readonly output: Glide,
  ) {}

  process(left: Float32Array, right: Float32Array): void {
    this.sides.take(left, right)
    for (let side = 0; side < 2; side++) {
      const fine = this.sides.fine[side]
      const factors = this.factors[side]
      for (let i = 0; i < OVERSAMPLING * left.length; i++) fine[i] *= factors[i]
    }
    this.sides.give(left, right, this.amount, this.output)
  }

  reset(): void {
    this.sides.reset()
  }
}
