/** The one renderer: turns a plan into sound, block by block, in the worklet and in the deliver worker alike. */
import { BLOCK_FRAMES } from '../audio/frames'
import { highPass, highShelf, StereoBiquad } from './biquad'
import { Ceiling, CEILING_LATENCY_FRAMES } from './ceiling'
import type { SampleSource } from './chunk-window'
import { StereoCompressor } from './compressor'
import { Glide } from './glide'
import type { MixPlan } from './plan'
import { Plate } from './plate'
import { DEFAULT_RECIPE } from './recipes'
import { Strip } from './strip'

/** Levels of the last block, linear peaks. */
export interface BlockPeaks {
  /** By the plan's order of layers. */
  layers: Float32Array
  beat: number
  vocal: number
  output: number
}

/**
 * Renders stereo blocks of 128 frames. `render(frame)` must be called with frames that follow each other; `seek` starts elsewhere.
 * Equal plans from an equal start give equal samples. The ceiling's look-ahead is taken off: the block for song frame f is what sounds at f.
 */
export class MixRenderer {
  readonly peaks: BlockPeaks
  /** Blocks in which some sound was not at hand and silence stood in for it. */
  missedBlocks = 0
  private strips: Strip[]
  private readonly beatStrip: Strip
  private plan: MixPlan
  private readonly source: SampleSource
  private readonly left = new Float32Array(BLOCK_FRAMES)
  private readonly right = new Float32Array(BLOCK_FRAMES)
  private readonly sendLeft = new Float32Array(BLOCK_FRAMES)
  private readonly sendRight = new Float32Array(BLOCK_FRAMES)
  private readonly dryLeft = new Float32Array(BLOCK_FRAMES)
  private readonly dryRight = new Float32Array(BLOCK_FRAMES)
  private readonly lowCut: StereoBiquad
  private readonly compressor: StereoCompressor
  private readonly shelf: StereoBiquad
  private readonly plate: Plate
  private ceiling: Ceiling
  private ceilingLevel: number
  private readonly recipeAmount: Glide
  private readonly vocalGain: Glide
  private readonly spaceGain: Glide

  constructor(plan: MixPlan, source: SampleSource) {
    this.plan = plan
    this.source = source
    const recipe = plan.recipe ?? DEFAULT_RECIPE
    this.lowCut = new StereoBiquad(highPass(recipe.lowCut.cutoffHz))
    this.compressor = new StereoCompressor(recipe.compressor)
    this.shelf = new StereoBiquad(highShelf(recipe.shelf.cornerHz, recipe.shelf.gainDecibels))
    this.plate = new Plate(plan.space)
    this.ceiling = new Ceiling(plan.ceiling)
    this.ceilingLevel = plan.ceiling
    this.recipeAmount = new Glide(plan.recipe ? 1 : 0)
    this.vocalGain = new Glide(plan.vocalGain)
    this.spaceGain = new Glide(plan.spaceGain)
    this.strips = plan.layers.map(channel => new Strip(channel, 1))
    this.beatStrip = new Strip(plan.beat, 2)
    this.peaks = { layers: new Float32Array(64), beat: 0, vocal: 0, output: 0 }
  }

  get compressorReductionDecibels(): number {
    return this.plan.recipe ? this.compressor.reductionDecibels : 0
  }

  get ceilingReductionDecibels(): number {
    return this.ceiling.reductionDecibels
  }

  /** Takes over a changed plan with a short crossfade. Allocates; call it between blocks. */
  setPlan(plan: MixPlan): void {
    const known = new Map(this.strips.map(strip => [strip.id, strip]))
    this.strips = plan.layers.map(channel => {
      const strip = known.get(channel.id)
      if (!strip) return new Strip(channel, 1, true)
      strip.set(channel)
      return strip
    })
    this.beatStrip.set(plan.beat)
    if (plan.recipe && plan.recipe !== this.plan.recipe) {
      this.lowCut.set(highPass(plan.recipe.lowCut.cutoffHz))
      this.compressor.set(plan.recipe.compressor)
      this.shelf.set(highShelf(plan.recipe.shelf.cornerHz, plan.recipe.shelf.gainDecibels))
    }
    this.recipeAmount.set(plan.recipe ? 1 : 0)
    this.vocalGain.set(plan.vocalGain)
    this.spaceGain.set(plan.spaceGain)
    this.plate.set(plan.space)
    if (plan.ceiling !== this.ceilingLevel) {
      this.ceiling = new Ceiling(plan.ceiling)
      this.ceilingLevel = plan.ceiling
    }
    this.plan = plan
  }

  /** Forgets all that still rings and makes ready to render from `frame`. */
  seek(frame: number): void {
    this.lowCut.reset()
    this.compressor.reset()
    this.shelf.reset()
    this.plate.reset()
    this.ceiling.reset()
    for (const strip of this.strips) strip.settle()
    this.beatStrip.settle()
    for (const glide of [this.recipeAmount, this.vocalGain, this.spaceGain]) glide.settle()
    // One block ahead fills the ceiling's look-ahead; what comes out of it lies before `frame`.
    this.renderAhead(frame, BLOCK_FRAMES, 0)
  }

  /** Writes the block that sounds at song frame `frame`. */
  render(frame: number, outLeft: Float32Array, outRight: Float32Array): void {
    this.pull(frame + CEILING_LATENCY_FRAMES, BLOCK_FRAMES, 0, outLeft, outRight)
  }

  /**
   * Writes the block before the one that is taken in: for loops, whose end may fall inside a block. Takes in `split` frames of the
   * song from `frame` and the rest of the block from `wrapFrame`.
   */
  pull(frame: number, split: number, wrapFrame: number, outLeft: Float32Array, outRight: Float32Array): void {
    this.renderAhead(frame, split, wrapFrame)
    outLeft.set(this.left)
    outRight.set(this.right)
  }

  private renderAhead(frame: number, split: number, wrapFrame: number): void {
    const { left, right, sendLeft, sendRight, peaks, source } = this
    left.fill(0)
    right.fill(0)
    sendLeft.fill(0)
    sendRight.fill(0)
    let complete = true
    for (let i = 0; i < this.strips.length; i++) {
      const strip = this.strips[i]
      if (!strip.addInto(left, right, sendLeft, sendRight, source, frame, split, wrapFrame)) complete = false
      peaks.layers[i] = strip.peak
    }
    this.process(left, right)
    if (!this.beatStrip.addInto(left, right, null, null, source, frame, split, wrapFrame)) complete = false
    peaks.beat = this.beatStrip.peak
    this.ceiling.process(left, right)
    peaks.output = peakOfPair(left, right)
    if (!complete) this.missedBlocks++
  }

  /** The vocal bus: recipe, then the space's answer, then its level. */
  private process(left: Float32Array, right: Float32Array): void {
    const { dryLeft, dryRight, recipeAmount, vocalGain, spaceGain } = this
    recipeAmount.advance()
    vocalGain.advance()
    spaceGain.advance()
    if (recipeAmount.from > 0 || recipeAmount.to > 0) {
      dryLeft.set(left)
      dryRight.set(right)
      this.lowCut.process(left, right)
      this.compressor.process(left, right)
      this.shelf.process(left, right)
      if (recipeAmount.from < 1 || recipeAmount.to < 1) {
        for (let i = 0; i < BLOCK_FRAMES; i++) {
          const amount = recipeAmount.at(i)
          left[i] = dryLeft[i] + amount * (left[i] - dryLeft[i])
          right[i] = dryRight[i] + amount * (right[i] - dryRight[i])
        }
      }
    }
    this.plate.addInto(left, right, this.sendLeft, this.sendRight, (spaceGain.from + spaceGain.to) / 2)
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const gain = vocalGain.at(i)
      left[i] *= gain
      right[i] *= gain
    }
    this.peaks.vocal = peakOfPair(left, right)
  }
}

function peakOfPair(left: Float32Array, right: Float32Array): number {
  let peak = 0
  for (let i = 0; i < left.length; i++) {
    const level = Math.max(Math.abs(left[i]), Math.abs(right[i]))
    if (level > peak) peak = level
  }
  return peak
}
