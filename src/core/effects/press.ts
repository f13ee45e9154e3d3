/** Voices pressed hard, to be laid under themselves: what is soft in them comes up, and what is loud stays as it is. */
import { BLOCK_FRAMES } from '../audio/frames'
import { addRamp } from '../audio/ramp'
import { CompressorSettingsSchema, StereoCompressor, type CompressorSettings } from './compressor'
import type { Space } from './space'
import type { z } from 'zod'

export const PressSettingsSchema = CompressorSettingsSchema.omit({ mixFraction: true })
export type PressSettings = z.infer<typeof PressSettingsSchema>
/** Far below the voice, fast, and nearly flat above; as loud as what goes in where that is soft. Set by ear on the demo song's lead. */
export const USUAL_PRESS: PressSettings = {
  thresholdDecibels: -36,
  ratio: 8,
  attackSeconds: 0.002,
  releaseSeconds: 0.09,
  makeupDecibels: 6,
  kneeDecibels: 9,
}

/** A bus of its own with a compressor: two channels in, only what is pressed comes out, without a delay, so that it sums with the voices. */
export class Press implements Space<PressSettings> {
  private readonly compressor: StereoCompressor
  private readonly block = [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)] as const

  constructor(settings: PressSettings) {
    this.compressor = new StereoCompressor(whole(settings))
  }

  set(settings: PressSettings): void {
    this.compressor.set(whole(settings))
  }

  reset(): void {
    this.compressor.reset()
  }

  addInto(outLeft: Float32Array, outRight: Float32Array, inLeft: Float32Array, inRight: Float32Array, gain: number, endGain = gain): void {
    const [left, right] = this.block
    left.set(inLeft)
    right.set(inRight)
    this.compressor.process(left, right)
    addRamp(outLeft, left, gain, endGain)
    addRamp(outRight, right, gain, endGain)
  }
}

function whole(settings: PressSettings): CompressorSettings {
  return { ...settings, mixFraction: 1 }
}
