/** A row of effects made from data, which can be changed while it sounds. */
import { BLOCK_FRAMES } from '../audio/frames'
import { StereoCompressor, type CompressorSettings } from './compressor'
import type { Effect, ResetOptions } from './effect'
import { Air, LowCut, type AirSettings, type LowCutSettings } from './filters'
import { Glide } from './glide'

/** One effect and its settings, as plain data. A new effect is one file, and one entry here and in `makeEffect`. */
export type Step = ({ kind: 'low-cut' } & LowCutSettings) | ({ kind: 'compressor' } & CompressorSettings) | ({ kind: 'air' } & AirSettings)

function makeEffect(step: Step): Effect<Step> {
  switch (step.kind) {
    case 'low-cut':
      return new LowCut(step) as Effect<Step>
    case 'compressor':
      return new StereoCompressor(step) as Effect<Step>
    case 'air':
      return new Air(step) as Effect<Step>
  }
}

/** A new row hears the sound for 21 ms before it is heard: its compressors know by then how loud it is. */
const LISTENING_BLOCKS = 8

function isSameRow(a: readonly Step[], b: readonly Step[]): boolean {
  return a.length === b.length && a.every((step, i) => step.kind === b[i].kind)
}

/**
 * Effects one after the other. Where only settings change they glide; where effects come, go or change places the old row fades over to
 * the new one. Blocks of BLOCK_FRAMES at most.
 */
export class Chain {
  private steps: readonly Step[]
  private effects: Effect<Step>[]
  /** The row before, while it fades out; and the row that was asked for meanwhile. */
  private former: Effect<Step>[] | null = null
  private waiting: readonly Step[] | null = null
  /** Blocks for which a new row still only listens. */
  private listening = 0
  private readonly amount = new Glide(1)
  private readonly left = new Float32Array(BLOCK_FRAMES)
  private readonly right = new Float32Array(BLOCK_FRAMES)

  constructor(steps: readonly Step[]) {
    this.steps = steps
    this.effects = steps.map(makeEffect)
  }

  get latencyFrames(): number {
    return this.effects.reduce((sum, effect) => sum + effect.latencyFrames, 0)
  }

  /** What its compressors take away together at the end of the last block, in decibels, >= 0. */
  get reductionDecibels(): number {
    return this.effects.reduce((sum, effect) => sum + (effect instanceof StereoCompressor ? effect.reductionDecibels : 0), 0)
  }

  /** Allocates where the row itself changes; call it between blocks. */
  set(steps: readonly Step[]): void {
    if (steps === this.steps && !this.waiting) return
    if (this.former && !isSameRow(steps, this.steps)) {
      this.waiting = steps
      return
    }
    this.waiting = null
    if (isSameRow(steps, this.steps)) this.effects.forEach((effect, i) => effect.set(steps[i]))
    else {
      this.former = this.effects
      this.effects = steps.map(makeEffect)
      this.listening = LISTENING_BLOCKS
      this.amount.set(0)
      this.amount.settle()
    }
    this.steps = steps
  }

  process(left: Float32Array, right: Float32Array): void {
    if (!this.former) return this.run(this.effects, left, right)
    const { length } = left
    const oldLeft = this.left.subarray(0, length)
    const oldRight = this.right.subarray(0, length)
    oldLeft.set(left)
    oldRight.set(right)
    this.run(this.former, oldLeft, oldRight)
    this.run(this.effects, left, right)
    if (this.listening > 0 && --this.listening === 0) this.amount.set(1)
    this.amount.advance()
    for (let i = 0; i < length; i++) {
      const share = this.amount.at(i)
      left[i] = oldLeft[i] + share * (left[i] - oldLeft[i])
      right[i] = oldRight[i] + share * (right[i] - oldRight[i])
    }
    if (this.listening > 0 || this.amount.to < 1) return
    this.former = null
    if (this.waiting) this.set(this.waiting)
  }

  reset(options: ResetOptions = {}): void {
    this.former = null
    if (this.waiting) this.set(this.waiting)
    this.former = null
    this.listening = 0
    this.amount.set(1)
    this.amount.settle()
    for (const effect of this.effects) effect.reset(options)
  }

  private run(effects: readonly Effect<Step>[], left: Float32Array, right: Float32Array): void {
    for (const effect of effects) effect.process(left, right)
  }
}
