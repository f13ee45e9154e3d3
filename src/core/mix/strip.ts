/** One channel of the mix: what sounds when, how loud, where from left to right. */
import { BLOCK_FRAMES } from '../audio/frames'
import type { SampleSource } from './chunk-window'
import { Glide, SWAP_BLOCKS } from '../effects/glide'
import type { Channel } from './plan'
import { addSpansInto, MISSED, SOUNDED, type Span } from './spans'

/** Reads a channel's spans, fades, sums and places them; a changed channel is crossfaded to. */
export class Strip {
  readonly id: string
  peak = 0
  private spans: Span[]
  /** What sounded before a swap, while it fades out. */
  private oldSpans: Span[] = []
  private swapBlocks = 0
  /** What comes after the swap that is going on: a swap is never begun from its middle. */
  private nextSpans: Span[] | null = null
  /** Whether all sound of the current block was at hand. */
  private complete = true
  private readonly gainLeft: Glide
  private readonly gainRight: Glide
  private readonly send: Glide
  private readonly sums: Float32Array[]
  private readonly olds: Float32Array[]
  private readonly scratch = new Float32Array(BLOCK_FRAMES)

  constructor(
    channel: Channel,
    private readonly channels: 1 | 2,
    fadeIn = false,
  ) {
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
    if (this.swapBlocks > 0) this.nextSpans = channel.spans
    else this.swapTo(channel.spans)
  }

  /** Fades out, to be left out of the plan after that. */
  leave(): void {
    this.gainLeft.set(0)
    this.gainRight.set(0)
  }

  /** Whether nothing of it can be heard any more. */
  get isSilent(): boolean {
    const { gainLeft, gainRight } = this
    return gainLeft.from === 0 && gainLeft.to === 0 && gainRight.from === 0 && gainRight.to === 0
  }

  private swapTo(spans: Span[]): void {
    if (!equalSpans(this.spans, spans)) {
      this.oldSpans = this.spans
      this.swapBlocks = SWAP_BLOCKS
    }
    this.spans = spans
  }

  private endSwapBlock(): void {
    if (--this.swapBlocks > 0 || !this.nextSpans) return
    const next = this.nextSpans
    this.nextSpans = null
    this.swapTo(next)
  }

  settle(): void {
    this.swapBlocks = 0
    this.oldSpans = []
    this.spans = this.nextSpans ?? this.spans
    this.nextSpans = null
    this.gainLeft.settle()
    this.gainRight.settle()
    this.send.settle()
  }

  /** @param fade A gain for each frame, where playing begins or a loop turns. @returns false if some sound was not at hand. */
  addInto(
    left: Float32Array,
    right: Float32Array,
    sendLeft: Float32Array | null,
    sendRight: Float32Array | null,
    source: SampleSource,
    frame: number,
    split: number,
    wrapFrame: number,
    fade: Float32Array | null,
  ): boolean {
    const { gainLeft, gainRight, send, sums, olds } = this
    gainLeft.advance()
    gainRight.advance()
    send.advance()
    this.peak = 0
    if (this.isSilent) {
      if (this.swapBlocks > 0) this.endSwapBlock()
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
      this.endSwapBlock()
    }
    if (!sounds) return this.complete
    if (fade) for (const sum of sums) for (let i = 0; i < BLOCK_FRAMES; i++) sum[i] *= fade[i]
    const inLeft = sums[0]
    const inRight = sums[sums.length - 1]
    const stepLeft = (gainLeft.to - gainLeft.from) / BLOCK_FRAMES
    const stepRight = (gainRight.to - gainRight.from) / BLOCK_FRAMES
    const stepSend = (send.to - send.from) / BLOCK_FRAMES
    let peak = 0
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const l = inLeft[i] * (gainLeft.from + stepLeft * i)
      const r = inRight[i] * (gainRight.from + stepRight * i)
      left[i] += l
      right[i] += r
      if (sendLeft && sendRight) {
        const amount = send.from + stepSend * i
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
    let outcome = addSpansInto(sums, this.scratch, spans, source, frame, 0, split)
    if (split < BLOCK_FRAMES) outcome |= addSpansInto(sums, this.scratch, spans, source, wrapFrame, split, BLOCK_FRAMES)
    if (outcome & MISSED) this.complete = false
    return (outcome & SOUNDED) !== 0
  }
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
          span.assetId === other.assetId &&
          span.originFrame === other.originFrame &&
          span.startFrame === other.startFrame &&
          span.endFrame === other.endFrame &&
          span.gain === other.gain &&
          span.fadeInFrames === other.fadeInFrames &&
          span.fadeOutFrames === other.fadeOutFrames &&
          span.alikeIn === other.alikeIn &&
          span.alikeOut === other.alikeOut
        )
      }))
  )
}
