/** The one renderer: turns a plan into sound, block by block, in the worklet and in the deliver worker alike. */
import { BLOCK_FRAMES } from '../audio/frames'
import { highPass, highShelf, StereoBiquad } from './biquad'
import { Ceiling, CEILING_LATENCY_FRAMES } from './ceiling'
import type { SampleSource } from './chunk-window'
import { StereoCompressor } from './compressor'
import type { Channel, MixPlan, Span } from './plan'
import { Plate } from './plate'
import { DEFAULT_RECIPE } from './recipes'

/** A changed plan comes in over this many blocks, about 11 ms. */
const SWAP_BLOCKS = 4

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

/** A number that moves in a straight line over `SWAP_BLOCKS` blocks. */
class Glide {
  /** Value at the start and at the end of the current block. */
  from: number
  to: number
  private target: number
  private blocks = 0

  constructor(value: number) {
    this.from = this.to = this.target = value
  }

  set(target: number): void {
    if (target === this.target) return
    this.target = target
    this.blocks = SWAP_BLOCKS
  }

  settle(): void {
    this.from = this.to = this.target
    this.blocks = 0
  }

  advance(): void {
    this.from = this.to
    if (this.blocks === 0) return
    this.to = this.blocks === 1 ? this.target : this.from + (this.target - this.from) / this.blocks
    this.blocks--
  }

  at(i: number): number {
    return this.from + ((this.to - this.from) * i) / BLOCK_FRAMES
  }
}

/** One channel of the mix: its spans read, faded, summed, placed left to right. */
class Strip {
  readonly id: string
  peak = 0
  private spans: Span[]
  /** What sounded before a swap, while it fades out. */
  private oldSpans: Span[] = []
  private swapBlocks = 0
  /** Whether all sound of the current block was at hand. */
  private complete = true
  private readonly gainLeft: Glide
  private readonly gainRight: Glide
  private readonly send: Glide
  private readonly sums: Float32Array[]
  private readonly olds: Float32Array[]
  private readonly scratch = new Float32Array(BLOCK_FRAMES)

  constructor(channel: Channel, private readonly channels: 1 | 2, fadeIn = false) {
    const [left, right] = panGains(channel.pan, channels)
    this.id = channel.id
    this.spans = channel.spans
    this.gainLeft = new Glide(fadeIn ? 0 : channel.gain * left)
    this.gainRight = new Glide(fadeIn ? 0 : channel.gain * right)
    this.send = new Glide(channel.send)
    this.sums = Array.from({ length: channels }, () => new Float32Array(BLOCK_FRAMES))
    this.olds = Array.from({ length: channels }, () => new Float32Array(BLOCK_FRAMES))
    if (fadeIn) this.set(channel)
  }

  set(channel: Channel): void {
    const [left, right] = panGains(channel.pan, this.channels)
    this.gainLeft.set(channel.gain * left)
    this.gainRight.set(channel.gain * right)
    this.send.set(channel.send)
    if (!equalSpans(this.spans, channel.spans)) {
      this.oldSpans = this.spans
      this.swapBlocks = SWAP_BLOCKS
    }
    this.spans = channel.spans
  }

  settle(): void {
    this.swapBlocks = 0
    this.oldSpans = []
    this.gainLeft.settle()
    this.gainRight.settle()
    this.send.settle()
  }

  /** False if some sound was not at hand. */
  addInto(left: Float32Array, right: Float32Array, sendLeft: Float32Array | null, sendRight: Float32Array | null, source: SampleSource, frame: number, split: number, wrapFrame: number): boolean {
    const { gainLeft, gainRight, send, sums, olds } = this
    gainLeft.advance()
    gainRight.advance()
    send.advance()
    this.peak = 0
    const silent = gainLeft.from === 0 && gainLeft.to === 0 && gainRight.from === 0 && gainRight.to === 0
    if (silent) {
      if (this.swapBlocks > 0) this.swapBlocks--
      return true
    }
    this.complete = true
    let sounds = this.sumBlock(sums, this.spans, source, frame, split, wrapFrame)
    if (this.swapBlocks > 0) {
      sounds = this.sumBlock(olds, this.oldSpans, source, frame, split, wrapFrame) || sounds
      const done = (SWAP_BLOCKS - this.swapBlocks) / SWAP_BLOCKS
      for (let c = 0; c < sums.length; c++) {
        for (let i = 0; i < BLOCK_FRAMES; i++) {
          const amount = done + i / (BLOCK_FRAMES * SWAP_BLOCKS)
          sums[c][i] = olds[c][i] + amount * (sums[c][i] - olds[c][i])
        }
      }
      this.swapBlocks--
    }
    if (!sounds) return this.complete
    const inLeft = sums[0]
    const inRight = sums[sums.length - 1]
    const stepLeft = (gainLeft.to - gainLeft.from) / BLOCK_FRAMES
    const stepRight = (gainRight.to - gainRight.from) / BLOCK_FRAMES
    const amount = (send.from + send.to) / 2
    let peak = 0
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const l = inLeft[i] * (gainLeft.from + stepLeft * i)
      const r = inRight[i] * (gainRight.from + stepRight * i)
      left[i] += l
      right[i] += r
      if (sendLeft && sendRight) {
        sendLeft[i] += l * amount
        sendRight[i] += r * amount
      }
      const level = Math.max(Math.abs(l), Math.abs(r))
      if (level > peak) peak = level
    }
    this.peak = peak
    return this.complete
  }

  private sumBlock(sums: Float32Array[], spans: Span[], source: SampleSource, frame: number, split: number, wrapFrame: number): boolean {
    for (let c = 0; c < sums.length; c++) sums[c].fill(0)
    const sounds = this.sumSpans(sums, spans, source, frame, 0, split)
    return split === BLOCK_FRAMES ? sounds : this.sumSpans(sums, spans, source, wrapFrame, split, BLOCK_FRAMES) || sounds
  }

  /** Adds what sounds from song frame `frame` on into places `offset`..`limit` of the block; whether anything does. */
  private sumSpans(sums: Float32Array[], spans: Span[], source: SampleSource, frame: number, offset: number, limit: number): boolean {
    const end = frame + limit - offset
    const first = firstEndingAfter(spans, frame)
    if (first === spans.length || spans[first].startFrame >= end) return false
    const place = offset - frame
    for (let s = first; s < spans.length && spans[s].startFrame < end; s++) {
      const span = spans[s]
      const from = Math.max(frame, span.startFrame)
      const to = Math.min(end, span.endFrame)
      if (to <= from) continue
      const fades = from < span.startFrame + span.fadeInFrames || to > span.endFrame - span.fadeOutFrames
      for (let c = 0; c < sums.length; c++) {
        const { scratch } = this
        if (!source.read(span.assetId, c, from - span.originFrame, scratch, 0, to - from)) this.complete = false
        const sum = sums[c]
        const { gain } = span
        if (fades) for (let i = from; i < to; i++) sum[i + place] += scratch[i - from] * gain * fadeAt(span, i)
        else for (let i = from; i < to; i++) sum[i + place] += scratch[i - from] * gain
      }
    }
    return true
  }
}

/** Spans end in the order in which they start; the first that still sounds at a frame. */
function firstEndingAfter(spans: Span[], frame: number): number {
  let low = 0
  let high = spans.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (spans[middle].endFrame > frame) high = middle
    else low = middle + 1
  }
  return low
}

/** Equal-power fades: two unlike sounds that cross keep their loudness. */
function fadeAt(span: Span, frame: number): number {
  let gain = 1
  const sinceStart = frame - span.startFrame
  if (sinceStart < span.fadeInFrames) gain = Math.sin(((sinceStart + 0.5) / span.fadeInFrames) * (Math.PI / 2))
  const untilEnd = span.endFrame - frame
  if (untilEnd <= span.fadeOutFrames) gain *= Math.sin(((untilEnd - 0.5) / span.fadeOutFrames) * (Math.PI / 2))
  return gain
}

/** One voice is placed at constant power (-3 dB each in the middle); a stereo sound is balanced (0 dB in the middle). */
function panGains(pan: number, channels: 1 | 2): [number, number] {
  if (channels === 2) return [Math.min(1, 1 - pan), Math.min(1, 1 + pan)]
  const angle = ((pan + 1) * Math.PI) / 4
  return [Math.cos(angle), Math.sin(angle)]
}

function equalSpans(a: Span[], b: Span[]): boolean {
  return (
    a === b ||
    (a.length === b.length &&
      a.every((span, i) => {
        const other = b[i]
        return (
          span.assetId === other.assetId && span.originFrame === other.originFrame && span.startFrame === other.startFrame &&
          span.endFrame === other.endFrame && span.gain === other.gain && span.fadeInFrames === other.fadeInFrames && span.fadeOutFrames === other.fadeOutFrames
        )
      }))
  )
}

function peakOfPair(left: Float32Array, right: Float32Array): number {
  let peak = 0
  for (let i = 0; i < left.length; i++) {
    const level = Math.max(Math.abs(left[i]), Math.abs(right[i]))
    if (level > peak) peak = level
  }
  return peak
}
