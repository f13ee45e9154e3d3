/** A row of effects made from data, which can be changed while it sounds. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { CEILING_LATENCY_FRAMES } from './ceiling'
import { StereoCompressor, type CompressorSettings } from './compressor'
import { DeEsser, type DeEsserSettings } from './de-esser'
import type { Follower, ResetOptions, RowEffect } from './effect'
import { Equaliser, type EqualiserSettings } from './equaliser'
import { DynamicBand, type DynamicBandSettings } from './dynamic-band'
import { Air, HighCut, LowCut, type AirSettings, type HighCutSettings, type LowCutSettings } from './filters'
import { Gate, type GateSettings } from './gate'
import { Glide } from './glide'
import { Limiter, type LimiterSettings } from './limiter'
import { OVERSAMPLING_LATENCY_FRAMES } from './oversampler'
import { isSameFlat } from './same'
import { Saturation, type SaturationSettings } from './saturation'
import { Wash, type WashSettings } from './wash'
import { Width, type WidthSettings } from './width'

/** One effect and its settings, as plain data. A new effect is one file, and one entry here, in `makeEffect` and in the catalogue. */
export type Step =
  | ({ kind: 'low-cut' } & LowCutSettings)
  | ({ kind: 'gate' } & GateSettings)
  | ({ kind: 'de-esser' } & DeEsserSettings)
  | ({ kind: 'compressor' } & CompressorSettings)
  | ({ kind: 'equaliser' } & EqualiserSettings)
  | ({ kind: 'saturation' } & SaturationSettings)
  | ({ kind: 'air' } & AirSettings)
  | ({ kind: 'high-cut' } & HighCutSettings)
  | ({ kind: 'dynamic-band' } & DynamicBandSettings)
  | ({ kind: 'wash' } & WashSettings)
  | ({ kind: 'width' } & WidthSettings)
  | ({ kind: 'limiter' } & LimiterSettings)

export function makeEffect(step: Step): RowEffect<Step> {
  switch (step.kind) {
    case 'low-cut':
      return new LowCut(step) as RowEffect<Step>
    case 'gate':
      return new Gate(step) as RowEffect<Step>
    case 'de-esser':
      return new DeEsser(step) as RowEffect<Step>
    case 'compressor':
      return new StereoCompressor(step) as RowEffect<Step>
    case 'equaliser':
      return new Equaliser(step) as RowEffect<Step>
    case 'saturation':
      return new Saturation(step) as RowEffect<Step>
    case 'air':
      return new Air(step) as RowEffect<Step>
    case 'high-cut':
      return new HighCut(step) as RowEffect<Step>
    case 'dynamic-band':
      return new DynamicBand(step) as RowEffect<Step>
    case 'wash':
      return new Wash(step) as RowEffect<Step>
    case 'width':
      return new Width(step) as RowEffect<Step>
    case 'limiter':
      return new Limiter(step) as RowEffect<Step>
  }
}

/** How much later the sound leaves a row than it came. */
export function latencyFramesOf(steps: readonly Step[]): number {
  return steps.reduce((sum, { kind }) => sum + (kind === 'saturation' ? OVERSAMPLING_LATENCY_FRAMES : kind === 'limiter' ? CEILING_LATENCY_FRAMES : 0), 0)
}

/** Six times the longest release, 12 s: after so much silence a row is as new. */
const RESTING_BLOCKS = (12 * SAMPLE_RATE_HZ) / BLOCK_FRAMES

/** A new row hears the sound for 21 ms before it is heard: its compressors know by then how loud it is. */
const LISTENING_BLOCKS = 8

function isSameRow(a: readonly Step[], b: readonly Step[]): boolean {
  return a.length === b.length && a.every((step, i) => step.kind === b[i].kind)
}

/**
 * Effects one after the other. Where only settings change they glide; where effects come, go or change places the old row fades over to
 * the new one. In blocks of BLOCK_FRAMES.
 */
export class Chain {
  private steps: readonly Step[]
  private effects: RowEffect<Step>[]
  /** The row before, while it fades out; and the row that was asked for meanwhile, ready to follow. */
  private former: RowEffect<Step>[] | null = null
  private waiting: { steps: readonly Step[]; effects: RowEffect<Step>[] } | null = null
  /** Blocks for which a new row still only listens. */
  private listening = 0
  /** Since something went in; a row that was reset has had nothing yet. */
  private silentBlocks = 0
  private readonly amount = new Glide(1)
  private readonly left = new Float32Array(BLOCK_FRAMES)
  private readonly right = new Float32Array(BLOCK_FRAMES)

  constructor(steps: readonly Step[]) {
    this.steps = steps
    this.effects = steps.map(makeEffect)
  }

  /** Whether it passes everything on as it came: `process` need not be called. */
  get isEmpty(): boolean {
    return this.effects.length === 0 && this.former === null
  }

  /** What its compressors take away together at the end of the last block, in decibels, >= 0. */
  get reductionDecibels(): number {
    return this.effects.reduce((sum, effect) => sum + (effect instanceof StereoCompressor ? effect.reductionDecibels : 0), 0)
  }

  /** All that rang has died away: until something goes in, `process` need not be called. */
  get isResting(): boolean {
    return this.silentBlocks > RESTING_BLOCKS
  }

  /** Allocates where the row itself changes; call it between blocks. */
  set(steps: readonly Step[]): void {
    // What goes by an empty row is not seen by it: something may sound, and is faded from.
    if (this.isEmpty) this.silentBlocks = 0
    this.change(steps)
    // Nothing to fade from: the next sound meets the new row.
    if (this.isResting) this.reset()
  }

  private change(steps: readonly Step[]): void {
    if (isSameRow(steps, this.steps)) {
      this.waiting = null
      this.effects.forEach((effect, i) => isSameFlat(steps[i], this.steps[i]) || effect.set(steps[i]))
      this.steps = steps
      return
    }
    this.waiting = { steps, effects: steps.map(makeEffect) }
    if (!this.former) this.begin()
  }

  /** The row that waits begins to listen. */
  private begin(): void {
    if (!this.waiting) return
    this.former = this.effects
    this.steps = this.waiting.steps
    this.effects = this.waiting.effects
    this.waiting = null
    this.listening = LISTENING_BLOCKS
    this.amount.set(0)
    this.amount.settle()
  }

  /** Does to a part of what goes in what the row does to all of it; to be called after `process`, block by block. For a row that stays as it is. */
  makeFollower(): Follower {
    const followers = this.effects.map(effect => effect.makeFollower())
    return {
      process: (left, right) => {
        for (const follower of followers) follower.process(left, right)
      },
      reset: () => {
        for (const follower of followers) follower.reset()
      },
    }
  }

  /** @param isSilent Nothing goes in. */
  process(left: Float32Array, right: Float32Array, isSilent = false): void {
    this.silentBlocks = isSilent ? this.silentBlocks + 1 : 0
    if (!this.former) return this.run(this.effects, left, right)
    const isPair = left !== right
    const formerRight = isPair ? this.right : this.left
    this.left.set(left)
    if (isPair) formerRight.set(right)
    this.run(this.former, this.left, formerRight)
    this.run(this.effects, left, right)
    if (this.listening > 0 && --this.listening === 0) this.amount.set(1)
    this.amount.advance()
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const share = this.amount.at(i)
      left[i] = this.left[i] + share * (left[i] - this.left[i])
      if (isPair) right[i] = formerRight[i] + share * (right[i] - formerRight[i])
    }
    if (this.listening > 0 || this.amount.to < 1) return
    this.former = null
    this.begin()
  }

  reset(options: ResetOptions = {}): void {
    this.begin()
    this.former = null
    this.listening = 0
    this.amount.set(1)
    this.amount.settle()
    for (const effect of this.effects) effect.reset(options)
    this.silentBlocks = Infinity
  }

  private run(effects: readonly RowEffect<Step>[], left: Float32Array, right: Float32Array): void {
    for (const effect of effects) effect.process(left, right)
  }
}
