/** A plate-like reverb: diffused input into a network of eight delays that feed each other. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { DelayLine } from './delay-line'

export interface PlateSettings {
  /** Until it has died away by 60 dB. */
  decaySeconds: number
  preDelaySeconds: number
  /** Above this, sound dies sooner. */
  dampingHz: number
}

/** Mutually prime delay lengths in frames, spread over 23 to 62 ms; all longer than a block, so that a block can be read before it is written. */
const LINE_FRAMES = [1_123, 1_319, 1_549, 1_787, 2_053, 2_339, 2_621, 2_971]
const DIFFUSERS = [
  { frames: 149, gain: 0.75 },
  { frames: 211, gain: 0.75 },
  { frames: 379, gain: 0.625 },
  { frames: 277, gain: 0.625 },
]
const MAX_PRE_DELAY_FRAMES = Math.ceil(0.2 * SAMPLE_RATE_HZ)
/** Signs with which each line reaches the left and the right output. */
const LEFT_SIGNS = [1, -1, 1, -1, 1, -1, 1, -1]
const RIGHT_SIGNS = [1, 1, -1, -1, 1, 1, -1, -1]
const OUTPUT_GAIN = 0.3
/** A changed pre-delay is faded over to in this many blocks. */
const FADE_BLOCKS = 4

/**
 * Two channels in, two channels out, wet only, in blocks of 128 frames. Deterministic: nothing in it wanders.
 * @see J.-M. Jot and A. Chaigne, Digital delay networks for designing artificial reverberators, AES 90 (1991);
 *   J. Dattorro, Effect design part 1, J. Audio Eng. Soc. 45 (1997), for the input diffusers.
 */
export class Plate {
  private readonly preDelays = [0, 1].map(() => new DelayLine(MAX_PRE_DELAY_FRAMES + BLOCK_FRAMES))
  private readonly diffusers = [0, 1].map(() => DIFFUSERS.map(({ frames }) => new DelayLine(frames)))
  private readonly lines = LINE_FRAMES.map(frames => new DelayLine(frames))
  /** Of the last block, and those that are wanted: reached within one block. */
  private readonly lineGains = new Float64Array(8)
  private readonly wantedGains = new Float64Array(8)
  private readonly lineStates = new Float64Array(8)
  private readonly reads = LINE_FRAMES.map(() => new Float32Array(BLOCK_FRAMES))
  private readonly inputs = [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)]
  private readonly shared = new Float32Array(BLOCK_FRAMES)
  private readonly scratch = new Float32Array(BLOCK_FRAMES)
  private preDelayFrames = 0
  /** Where the pre-delay was, while it fades over to where it is now. */
  private oldPreDelayFrames = 0
  private fadeBlocks = 0
  private damping = 0

  constructor(space: PlateSettings) {
    this.set(space)
    this.settle()
  }

  /** Glides to other settings over the next blocks. */
  set(space: PlateSettings): void {
    const preDelayFrames = Math.round(space.preDelaySeconds * SAMPLE_RATE_HZ)
    if (preDelayFrames !== this.preDelayFrames) {
      // A fade that is going on begins anew from the nearer of its ends.
      if (this.fadeBlocks <= FADE_BLOCKS / 2) this.oldPreDelayFrames = this.preDelayFrames
      this.preDelayFrames = preDelayFrames
      this.fadeBlocks = FADE_BLOCKS
    }
    // A one-pole low pass inside each line: high frequencies die sooner.
    this.damping = Math.exp((-2 * Math.PI * space.dampingHz) / SAMPLE_RATE_HZ)
    // -60 dB after the decay time.
    LINE_FRAMES.forEach((frames, i) => (this.wantedGains[i] = 10 ** ((-3 * frames) / (space.decaySeconds * SAMPLE_RATE_HZ))))
  }

  private settle(): void {
    this.lineGains.set(this.wantedGains)
    this.fadeBlocks = 0
  }

  reset(): void {
    this.settle()
    for (const line of [...this.preDelays, ...this.diffusers.flat(), ...this.lines]) line.reset()
    this.lineStates.fill(0)
  }

  /** Adds the space's answer to one block of input into the outputs, at a level that moves from `gain` to `endGain`. */
  addInto(outLeft: Float32Array, outRight: Float32Array, inLeft: Float32Array, inRight: Float32Array, gain: number, endGain = gain): void {
    this.diffuse(0, inLeft)
    this.diffuse(1, inRight)
    if (this.fadeBlocks > 0) this.fadeBlocks--
    const { lines, reads, shared, scratch, damping, lineGains, wantedGains, lineStates } = this
    shared.fill(0)
    const gainStep = (OUTPUT_GAIN * (endGain - gain)) / BLOCK_FRAMES
    for (let k = 0; k < 8; k++) {
      const read = reads[k]
      lines[k].read(read, lines[k].length)
      const left = LEFT_SIGNS[k]
      const right = RIGHT_SIGNS[k]
      const lineStep = (wantedGains[k] - lineGains[k]) / BLOCK_FRAMES
      let level = OUTPUT_GAIN * gain
      let lineGain = lineGains[k]
      let state = lineStates[k]
      for (let i = 0; i < BLOCK_FRAMES; i++) {
        const value = read[i]
        outLeft[i] += left * level * value
        outRight[i] += right * level * value
        level += gainStep
        lineGain += lineStep
        state = value + damping * (state - value)
        read[i] = state * lineGain
        shared[i] += read[i]
      }
      lineGains[k] = wantedGains[k]
      lineStates[k] = Math.abs(state) < 1e-15 ? 0 : state
    }
    // Householder's reflection mixes all lines without loss.
    for (let k = 0; k < 8; k++) {
      const input = this.inputs[k % 2]
      const read = reads[k]
      for (let i = 0; i < BLOCK_FRAMES; i++) {
        const value = read[i] - shared[i] / 4 + input[i]
        scratch[i] = Math.abs(value) < 1e-15 ? 0 : value
      }
      lines[k].write(scratch)
    }
  }

  private diffuse(side: number, input: Float32Array): void {
    const value = this.inputs[side]
    const { scratch } = this
    this.preDelays[side].write(input)
    this.preDelays[side].read(value, this.preDelayFrames + BLOCK_FRAMES)
    if (this.fadeBlocks > 0) {
      this.preDelays[side].read(scratch, this.oldPreDelayFrames + BLOCK_FRAMES)
      const done = (FADE_BLOCKS - this.fadeBlocks) / FADE_BLOCKS
      for (let i = 0; i < BLOCK_FRAMES; i++) value[i] = scratch[i] + (done + i / (BLOCK_FRAMES * FADE_BLOCKS)) * (value[i] - scratch[i])
    }
    for (let k = 0; k < DIFFUSERS.length; k++) {
      const line = this.diffusers[side][k]
      const { gain } = DIFFUSERS[k]
      line.read(scratch, line.length)
      for (let i = 0; i < BLOCK_FRAMES; i++) {
        const delayed = scratch[i]
        const fed = value[i] + gain * delayed
        value[i] = delayed - gain * fed
        scratch[i] = Math.abs(fed) < 1e-15 ? 0 : fed
      }
      line.write(scratch)
    }
  }
}
