/** The one renderer: turns a plan into sound, block by block, in the worklet and in the deliver worker alike. */
import { BLOCK_FRAMES } from '../audio/frames'
import { Chain } from '../effects/chain'
import { Ceiling, CEILING_LATENCY_FRAMES } from '../effects/ceiling'
import type { SampleSource } from './chunk-window'
import { Glide } from '../effects/glide'
import type { MixPlan } from './plan'
import { Stem } from './stem'
import { Plate } from '../effects/reverb'
import { Strip } from './strip'

/** Where a loop turns, the sound fades out and in again over this many frames, 4 ms. */
const TURN_FADE_FRAMES = 192

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
  /** Of layers that are no longer in the plan, until they have faded out. */
  private leaving: Strip[] = []
  private readonly beatStrip: Strip
  private readonly source: SampleSource
  private readonly left = new Float32Array(BLOCK_FRAMES)
  private readonly right = new Float32Array(BLOCK_FRAMES)
  private readonly sendLeft = new Float32Array(BLOCK_FRAMES)
  private readonly sendRight = new Float32Array(BLOCK_FRAMES)
  private readonly fade = new Float32Array(BLOCK_FRAMES)
  /** Frames taken in since playing began or a loop turned; Infinity if it began where nothing has to be faded in. */
  private sinceTurn = Infinity
  private readonly vocalChain: Chain
  private readonly plate: Plate
  private readonly ceiling: Ceiling
  private readonly vocalGain: Glide
  private readonly spaceGain: Glide
  private readonly stem: Stem | null

  constructor(plan: MixPlan, source: SampleSource) {
    this.source = source
    this.vocalChain = new Chain(plan.vocalSteps)
    this.stem = plan.stem ? new Stem(plan.stem, this.vocalChain) : null
    this.plate = new Plate(plan.space)
    this.ceiling = new Ceiling(plan.ceiling)
    this.vocalGain = new Glide(plan.vocalGain)
    this.spaceGain = new Glide(plan.spaceGain)
    this.strips = plan.layers.map(channel => new Strip(channel, 1))
    this.beatStrip = new Strip(plan.beat, 2)
    this.peaks = { layers: new Float32Array(64), beat: 0, vocal: 0, output: 0 }
  }

  get compressorReductionDecibels(): number {
    return this.vocalChain.reductionDecibels
  }

  get ceilingReductionDecibels(): number {
    return this.ceiling.reductionDecibels
  }

  /** Takes over a changed plan gliding, so that nothing clicks. Allocates; call it between blocks. */
  setPlan(plan: MixPlan): void {
    const former = new Map(this.strips.map(strip => [strip.id, strip]))
    this.strips = plan.layers.map(channel => {
      const strip = former.get(channel.id)
      if (!strip) return new Strip(channel, 1, true)
      strip.set(channel)
      return strip
    })
    for (const strip of former.values()) {
      if (plan.layers.some(channel => channel.id === strip.id)) continue
      strip.leave()
      this.leaving.push(strip)
    }
    this.beatStrip.set(plan.beat)
    this.vocalChain.set(plan.vocalSteps)
    this.vocalGain.set(plan.vocalGain)
    this.spaceGain.set(plan.spaceGain)
    this.plate.set(plan.space)
    this.ceiling.set(plan.ceiling)
  }

  /**
   * Forgets all that still rings and makes ready to render from `frame`.
   * @param options `goingOn`: something was just heard. What begins in mid-sound is then faded in, before anything that rings can take
   *   it for a click, and the compressor still knows how loud the voice is. Otherwise equal plans give equal samples from the first on.
   */
  seek(frame: number, { goingOn = false }: { goingOn?: boolean } = {}): void {
    this.vocalChain.reset({ goingOn })
    this.stem?.reset()
    this.plate.reset()
    this.ceiling.reset()
    this.leaving = []
    for (const strip of this.strips) strip.settle()
    this.beatStrip.settle()
    for (const glide of [this.vocalGain, this.spaceGain]) glide.settle()
    this.sinceTurn = goingOn ? 0 : Infinity
    // One block ahead fills the ceiling's look-ahead; what comes out of it lies before `frame`.
    this.renderAhead(frame, BLOCK_FRAMES, 0)
  }

  /** Writes the block that sounds at song frame `frame`. */
  render(frame: number, outLeft: Float32Array, outRight: Float32Array): void {
    this.pull(frame + CEILING_LATENCY_FRAMES, BLOCK_FRAMES, 0, outLeft, outRight)
  }

  /**
   * Writes the block before the one that is taken in: for loops, whose end may fall inside a block. Takes in `split` frames of the
   * song from `frame` and the remaining frames from `wrapFrame`; fades out before the turn, of which `framesToTurn` are left, and in after it.
   */
  pull(frame: number, split: number, wrapFrame: number, outLeft: Float32Array, outRight: Float32Array, framesToTurn = Infinity): void {
    this.renderAhead(frame, split, wrapFrame, framesToTurn)
    outLeft.set(this.left)
    outRight.set(this.right)
  }

  /** The gains of this block where playing begins or a loop turns; null for a block that is far from both. */
  private fadeOf(split: number, framesToTurn: number): Float32Array | null {
    const { fade } = this
    const near = framesToTurn < BLOCK_FRAMES + TURN_FADE_FRAMES || this.sinceTurn < TURN_FADE_FRAMES
    for (let i = 0; near && i < BLOCK_FRAMES; i++) {
      const since = i < split ? this.sinceTurn + i : i - split
      const left = i < split ? framesToTurn - i : Infinity
      fade[i] = Math.min(1, since / TURN_FADE_FRAMES, left / TURN_FADE_FRAMES)
    }
    this.sinceTurn = split < BLOCK_FRAMES ? BLOCK_FRAMES - split : this.sinceTurn + BLOCK_FRAMES
    return near ? fade : null
  }

  private renderAhead(frame: number, split: number, wrapFrame: number, framesToTurn = Infinity): void {
    const fade = this.fadeOf(split, framesToTurn)
    const { left, right, sendLeft, sendRight, peaks, source } = this
    left.fill(0)
    right.fill(0)
    sendLeft.fill(0)
    sendRight.fill(0)
    this.stem?.begin()
    let complete = true
    for (let i = 0; i < this.strips.length; i++) {
      const strip = this.strips[i]
      if (!this.addStrip(strip, frame, split, wrapFrame, fade)) complete = false
      peaks.layers[i] = strip.peak
    }
    for (const strip of this.leaving) if (!this.addStrip(strip, frame, split, wrapFrame, fade)) complete = false
    if (this.leaving.length > 0) this.leaving = this.leaving.filter(strip => !strip.isSilent)
    this.process(left, right)
    if (!this.beatStrip.addInto(left, right, null, null, source, frame, split, wrapFrame, fade)) complete = false
    peaks.beat = this.beatStrip.peak
    this.ceiling.process(left, right)
    peaks.output = peakOfPair(left, right)
    if (!complete) this.missedBlocks++
  }

  private addStrip(strip: Strip, frame: number, split: number, wrapFrame: number, fade: Float32Array | null): boolean {
    const { left, right, sendLeft, sendRight, source, stem } = this
    if (!stem) return strip.addInto(left, right, sendLeft, sendRight, source, frame, split, wrapFrame, fade)
    if (!stem.has(strip.id)) return strip.addInto(left, right, null, null, source, frame, split, wrapFrame, fade)
    const isComplete = strip.addInto(...stem.strip(), sendLeft, sendRight, source, frame, split, wrapFrame, fade)
    stem.addStripInto(left, right)
    return isComplete
  }

  /** The vocal bus: recipe, then the space's answer, then its level. */
  private process(left: Float32Array, right: Float32Array): void {
    const { vocalGain, spaceGain } = this
    vocalGain.advance()
    spaceGain.advance()
    this.vocalChain.process(left, right)
    this.stem?.takeOver(left, right)
    this.plate.addInto(left, right, this.sendLeft, this.sendRight, spaceGain.from, spaceGain.to)
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
