/** An echo: the sound again after a time, and again, each time softer, darker and thinner. */
import { z } from 'zod'
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { highPass, lowPass, StereoBiquad } from './biquad'
import { DelayLine } from './delay-line'
import { Glide } from './glide'
import type { Space } from './space'

export const DELAY_RANGE_SECONDS = { min: 0.02, max: 2 } as const

export const EchoSettingsSchema = z.strictObject({
  delaySeconds: z.number().min(DELAY_RANGE_SECONDS.min).max(DELAY_RANGE_SECONDS.max),
  /** How much softer each echo is than the one before, as a factor. */
  feedbackFraction: z.number().min(0).max(0.95),
  /** Each echo passes a low pass and a high pass of second order once more. */
  highCutHz: z.number().min(500).max(20_000),
  lowCutHz: z.number().min(20).max(2_000),
  /** 0: each side repeats itself; 1: each echo comes from the other side than the one before. */
  crossFraction: z.number().min(0).max(1),
  /** Each echo is bent by so much of a worn tape's curve once more: loud ones are rounded off. */
  wornFraction: z.number().min(0).max(1),
})
export type EchoSettings = z.infer<typeof EchoSettingsSchema>
export const USUAL_ECHO: EchoSettings = { delaySeconds: 0.5, feedbackFraction: 0.35, highCutHz: 5_000, lowCutHz: 180, crossFraction: 0, wornFraction: 0 }

/** A changed time is faded over to in this many blocks. */
const FADE_BLOCKS = 8

export class Echo implements Space<EchoSettings> {
  private readonly lines = [0, 1].map(() => new DelayLine(DELAY_RANGE_SECONDS.max * SAMPLE_RATE_HZ + BLOCK_FRAMES))
  private readonly returns = [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)]
  private readonly scratch = new Float32Array(BLOCK_FRAMES)
  private readonly highCut: StereoBiquad
  private readonly lowCut: StereoBiquad
  private readonly feedback: Glide
  private readonly cross: Glide
  private readonly worn: Glide
  private delayFrames: number
  /** Where the echo was, while it fades over to where it is now. */
  private oldDelayFrames: number
  private fadeBlocks = 0

  constructor(settings: EchoSettings) {
    this.highCut = new StereoBiquad(lowPass(settings.highCutHz))
    this.lowCut = new StereoBiquad(highPass(settings.lowCutHz))
    this.feedback = new Glide(settings.feedbackFraction)
    this.cross = new Glide(settings.crossFraction)
    this.worn = new Glide(settings.wornFraction)
    this.delayFrames = this.oldDelayFrames = Math.round(settings.delaySeconds * SAMPLE_RATE_HZ)
  }

  set(settings: EchoSettings): void {
    this.highCut.set(lowPass(settings.highCutHz))
    this.lowCut.set(highPass(settings.lowCutHz))
    this.feedback.set(settings.feedbackFraction)
    this.cross.set(settings.crossFraction)
    this.worn.set(settings.wornFraction)
    this.setDelay(settings.delaySeconds, false)
  }

  setDelay(seconds: number, atOnce: boolean): void {
    const delayFrames = Math.round(seconds * SAMPLE_RATE_HZ)
    if (delayFrames === this.delayFrames) return
    if (atOnce) {
      this.delayFrames = this.oldDelayFrames = delayFrames
      this.fadeBlocks = 0
      return
    }
    // A fade that is going on begins anew from the nearer of its ends.
    if (this.fadeBlocks <= FADE_BLOCKS / 2) this.oldDelayFrames = this.delayFrames
    this.delayFrames = delayFrames
    this.fadeBlocks = FADE_BLOCKS
  }

  reset(): void {
    for (const line of this.lines) line.reset()
    this.highCut.reset()
    this.lowCut.reset()
    this.feedback.settle()
    this.cross.settle()
    this.worn.settle()
    this.fadeBlocks = 0
  }

  addInto(outLeft: Float32Array, outRight: Float32Array, inLeft: Float32Array, inRight: Float32Array, gain: number, endGain = gain): void {
    const [left, right] = this.returns
    this.feedback.advance()
    this.cross.advance()
    this.worn.advance()
    if (this.fadeBlocks > 0) this.fadeBlocks--
    this.read(0, left)
    this.read(1, right)
    this.highCut.process(left, right)
    this.lowCut.process(left, right)
    this.wear(left, right)
    const step = (endGain - gain) / BLOCK_FRAMES
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const l = left[i]
      const r = right[i]
      const level = gain + step * i
      outLeft[i] += level * l
      outRight[i] += level * r
      const cross = this.cross.at(i)
      const feedback = this.feedback.at(i)
      left[i] = quiet(inLeft[i] + feedback * (l + cross * (r - l)))
      right[i] = quiet(inRight[i] + feedback * (r + cross * (l - r)))
    }
    this.lines[0].write(left)
    this.lines[1].write(right)
  }

  private wear(left: Float32Array, right: Float32Array): void {
    const { worn } = this
    if (worn.from === 0 && worn.to === 0) return
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const share = worn.at(i)
      left[i] += share * (rounded(left[i]) - left[i])
      right[i] += share * (rounded(right[i]) - right[i])
    }
  }

  private read(side: number, block: Float32Array): void {
    const { scratch } = this
    this.lines[side].read(block, this.delayFrames)
    if (this.fadeBlocks === 0) return
    this.lines[side].read(scratch, this.oldDelayFrames)
    const done = (FADE_BLOCKS - this.fadeBlocks) / FADE_BLOCKS
    for (let i = 0; i < BLOCK_FRAMES; i++) block[i] = scratch[i] + (done + i / (BLOCK_FRAMES * FADE_BLOCKS)) * (block[i] - scratch[i])
  }
}

/** Half of full scale is what a worn tape holds at most; what is soft passes as it is. */
const TAPE_HOLDS = 0.5

function rounded(value: number): number {
  return value / Math.hypot(1, value / TAPE_HOLDS)
}

/** Below -300 dB there are only slow denormal numbers. */
function quiet(value: number): number {
  return Math.abs(value) < 1e-15 ? 0 : value
}
