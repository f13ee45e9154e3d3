/** A hall in a row of effects: a share of the voice drowns in it. */
import { z } from 'zod'
import { BLOCK_FRAMES } from '../audio/frames'
import type { Follower, RowEffect } from './effect'
import { Glide } from './glide'
import { Hall, ReverbSettingsSchema, USUAL_HALL, type ReverbSettings } from './reverb'

export const WashSettingsSchema = z.strictObject({
  decaySeconds: ReverbSettingsSchema.shape.decaySeconds,
  dampingHz: ReverbSettingsSchema.shape.dampingHz,
  /** 0: the voice alone; 1: the hall alone. */
  mixFraction: z.number().min(0).max(1),
})
export type WashSettings = z.infer<typeof WashSettingsSchema>
export const USUAL_WASH: WashSettings = { decaySeconds: 4, dampingHz: 5_000, mixFraction: 0.5 }

const hallOf = ({ decaySeconds, dampingHz }: WashSettings): ReverbSettings => ({ ...USUAL_HALL, decaySeconds, dampingHz })

/** Of one voice the left side's answer alone is heard. */
export class Wash implements RowEffect<WashSettings> {
  readonly latencyFrames = 0
  private readonly hall: Hall
  private readonly mix: Glide
  /** What goes into a hall that was just built begins softly: all its walls would answer a sudden beginning. */
  private readonly opening = new Glide(0)
  private readonly inputs = [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)] as const
  private readonly answer = [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)] as const

  constructor(private settings: WashSettings) {
    this.hall = new Hall(hallOf(settings))
    this.mix = new Glide(settings.mixFraction)
    this.opening.set(1)
  }

  set(settings: WashSettings): void {
    this.settings = settings
    this.hall.set(hallOf(settings))
    this.mix.set(settings.mixFraction)
  }

  makeFollower(): Follower {
    return new Wash(this.settings)
  }

  process(left: Float32Array, right: Float32Array): void {
    const { mix, answer, inputs, opening } = this
    mix.advance()
    opening.advance()
    inputs[0].set(left)
    inputs[1].set(right)
    if (opening.from < 1) for (const side of inputs) for (let i = 0; i < side.length; i++) side[i] *= opening.at(i)
    for (const side of answer) side.fill(0)
    this.hall.addInto(answer[0], answer[1], inputs[0], inputs[1], 1)
    mixIn(left, answer[0], mix)
    if (left !== right) mixIn(right, answer[1], mix)
  }

  reset(): void {
    this.hall.reset()
    this.mix.settle()
    this.opening.settle()
  }
}

function mixIn(block: Float32Array, answer: Float32Array, mix: Glide): void {
  for (let i = 0; i < block.length; i++) block[i] += mix.at(i) * (answer[i] - block[i])
}
