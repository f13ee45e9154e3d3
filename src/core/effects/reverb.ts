/** Reverbs: diffused input into a network of eight delays that feed each other. */
import { z } from 'zod'
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { addRamp } from '../audio/ramp'
import { highPass, StereoBiquad } from './biquad'
import { Glide } from './glide'
import { Network } from './network'
import type { Space } from './space'
import { Walls, type Reflection, type WallsDesign } from './walls'

export const ReverbSettingsSchema = z.strictObject({
  /** Until it has died away by 60 dB. */
  decaySeconds: z.number().min(0.2).max(12),
  preDelaySeconds: z.number().min(0).max(0.2),
  /** Above this, sound dies sooner. */
  dampingHz: z.number().min(500).max(20_000),
  /** Below this, nothing goes in; at its least everything does. */
  lowCutHz: z.number().min(20).max(1_000),
  /** 1: both sides are as good as unlike; 0: they are one. */
  widthFraction: z.number().min(0).max(1),
  /** How far apart its walls are, against the usual: what comes back first comes sooner or later, and the body is closer or wider. */
  sizeFraction: z.number().min(0.5).max(1.5).multipleOf(0.05),
})
export type ReverbSettings = z.infer<typeof ReverbSettingsSchema>
const LEAST_CUT_HZ = 20
const WHOLE = { lowCutHz: LEAST_CUT_HZ, widthFraction: 1, sizeFraction: 1 }
/** All set by ear on the demo song. */
export const USUAL_PLATE: ReverbSettings = { decaySeconds: 1.6, preDelaySeconds: 0.02, dampingHz: 6_500, ...WHOLE }
export const USUAL_ROOM: ReverbSettings = { decaySeconds: 0.5, preDelaySeconds: 0, dampingHz: 5_000, ...WHOLE }
export const USUAL_HALL: ReverbSettings = { decaySeconds: 3.5, preDelaySeconds: 0.04, dampingHz: 4_500, lowCutHz: 180, widthFraction: 1, sizeFraction: 1 }

/** What a room, a plate or a hall is made of. */
interface Design extends WallsDesign {
  /** Mutually prime, in frames; of the network's eight lines. */
  lineFrames: readonly number[]
  outputGain: number
}

/** Dense at once and without walls; the lines are spread over 23 to 62 ms. */
const PLATE: Design = {
  lineFrames: [1_123, 1_319, 1_549, 1_787, 2_053, 2_339, 2_621, 2_971],
  diffusers: [
    { frames: 149, gain: 0.75 },
    { frames: 211, gain: 0.75 },
    { frames: 379, gain: 0.625 },
    { frames: 277, gain: 0.625 },
  ],
  reflections: [[], []],
  outputGain: 0.3,
}

/**
 * A small room: first its nearest walls one by one, then what follows; the lines are spread over 9 to 24 ms. The walls' times (4 to 11 ms, ways
 * that are 1.2 to 3.9 m longer) and levels are set by hand, such as a living room has them.
 */
const ROOM: Design = {
  lineFrames: [431, 509, 601, 691, 787, 907, 1_021, 1_151],
  diffusers: [
    { frames: 131, gain: 0.6 },
    { frames: 197, gain: 0.6 },
  ],
  reflections: [
    [
      [173, 0.52],
      [263, 0.41],
      [389, 0.33],
      [547, 0.25],
    ],
    [
      [197, 0.5],
      [241, 0.43],
      [421, 0.31],
      [503, 0.27],
    ],
  ],
  outputGain: 0.24,
}

/** Large and smooth: the answer grows before it dies, walls far away come singly; the lines are spread over 40 to 96 ms. */
const HALL: Design = {
  lineFrames: [1_931, 2_221, 2_557, 2_917, 3_301, 3_709, 4_133, 4_597],
  diffusers: [
    { frames: 307, gain: 0.75 },
    { frames: 467, gain: 0.75 },
    { frames: 691, gain: 0.7 },
    { frames: 883, gain: 0.7 },
    { frames: 1_151, gain: 0.6 },
  ],
  reflections: [
    [
      [1_013, 0.12],
      [1_559, 0.09],
    ],
    [
      [1_187, 0.12],
      [1_381, 0.09],
    ],
  ],
  outputGain: 0.3,
}

/** The same walls nearer together or further apart. Lengths stay primes, so that no two of them ring together. */
function sized(design: Design, size: number): Design {
  if (size === 1) return design
  const side = (reflections: readonly Reflection[]) => reflections.map(([frames, gain]): Reflection => [Math.round(size * frames), gain])
  const taken = new Set<number>()
  const apart = (frames: number) => {
    let length = primeFrom(Math.max(BLOCK_FRAMES + 1, size * frames))
    while (taken.has(length)) length = primeFrom(length + 1)
    taken.add(length)
    return length
  }
  return {
    ...design,
    lineFrames: design.lineFrames.map(apart),
    diffusers: design.diffusers.map(({ frames, gain }) => ({ frames: apart(frames), gain })),
    reflections: [side(design.reflections[0]), side(design.reflections[1])],
  }
}

function primeFrom(least: number): number {
  for (let number = Math.ceil(least); ; number++) {
    let divisor = 2
    while (divisor * divisor <= number && number % divisor > 0) divisor++
    if (divisor * divisor > number) return number
  }
}

/** Signs with which each line reaches the left and the right output. */
const LEFT_SIGNS = [1, -1, 1, -1, 1, -1, 1, -1]
const RIGHT_SIGNS = [1, 1, -1, -1, 1, 1, -1, -1]
/**
 * Two channels in, two channels out, wet only, in blocks of 128 frames. Deterministic: nothing in it wanders.
 * @see J.-M. Jot and A. Chaigne, Digital delay networks for designing artificial reverberators, AES 90 (1991);
 *   J. Dattorro, Effect design part 1, J. Audio Eng. Soc. 45 (1997), for the input diffusers.
 */
class Reverb implements Space<ReverbSettings> {
  private readonly walls: Walls
  private readonly network: Network
  private readonly lowCut = new StereoBiquad(highPass(LEAST_CUT_HZ))
  private lowCutHz = LEAST_CUT_HZ
  private readonly width = new Glide(1)
  private readonly cut = [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)] as const
  private damping = 0
  private readonly outputGain: number

  /** Its size is that of its first settings for good: walls do not move. */
  constructor(usual: Design, settings: ReverbSettings) {
    const design = sized(usual, settings.sizeFraction)
    this.outputGain = design.outputGain
    this.walls = new Walls(design)
    this.network = new Network(design.lineFrames, LEFT_SIGNS, RIGHT_SIGNS)
    this.set(settings)
    this.settle()
  }

  /** Glides to other settings over the next blocks. */
  set(space: ReverbSettings): void {
    this.walls.setDelay(Math.round(space.preDelaySeconds * SAMPLE_RATE_HZ))
    // A one-pole low pass inside each line: high frequencies die sooner.
    this.damping = Math.exp((-2 * Math.PI * space.dampingHz) / SAMPLE_RATE_HZ)
    if (space.lowCutHz !== this.lowCutHz) this.lowCut.set(highPass(space.lowCutHz))
    this.lowCutHz = space.lowCutHz
    this.width.set(space.widthFraction)
    // -60 dB after the decay time.
    this.network.setGains(frames => 10 ** ((-3 * frames) / (space.decaySeconds * SAMPLE_RATE_HZ)))
  }

  private settle(): void {
    this.network.settle()
    this.width.settle()
    this.walls.settle()
  }

  reset(): void {
    this.settle()
    this.walls.reset()
    this.network.reset()
    this.lowCut.reset()
  }

  /** Adds the space's answer to one block of input into the outputs, at a level that moves from `gain` to `endGain`. */
  addInto(outLeft: Float32Array, outRight: Float32Array, inLeft: Float32Array, inRight: Float32Array, gain: number, endGain = gain): void {
    const { walls, network } = this
    const [left, right] = this.withoutLows(inLeft, inRight)
    walls.process(left, right)
    for (let side = 0; side < 2; side++) network.inputs[side].set(walls.sides[side].block)
    network.run(this.damping)
    if (walls.answer) {
      addRamp(outLeft, walls.sides[0].answer, gain, endGain)
      addRamp(outRight, walls.sides[1].answer, gain, endGain)
    }
    this.addBody(outLeft, outRight, this.outputGain * gain, this.outputGain * endGain)
  }

  private addBody(outLeft: Float32Array, outRight: Float32Array, gain: number, endGain: number): void {
    const [left, right] = this.network.outputs
    const { width } = this
    width.advance()
    if (width.from === 1 && width.to === 1) {
      addRamp(outLeft, left, gain, endGain)
      addRamp(outRight, right, gain, endGain)
      return
    }
    const step = (endGain - gain) / BLOCK_FRAMES
    for (let i = 0, level = gain; i < BLOCK_FRAMES; i++, level += step) {
      const share = width.at(i)
      // As loud in power as both sides were.
      const middle = (1 - share) * (left[i] + right[i]) * Math.SQRT1_2
      outLeft[i] += level * (middle + share * left[i])
      outRight[i] += level * (middle + share * right[i])
    }
  }

  private withoutLows(inLeft: Float32Array, inRight: Float32Array): readonly [Float32Array, Float32Array] {
    if (this.lowCutHz <= LEAST_CUT_HZ) return [inLeft, inRight]
    const { cut } = this
    cut[0].set(inLeft)
    cut[1].set(inRight)
    this.lowCut.process(cut[0], cut[1])
    return cut
  }
}

export class Plate extends Reverb {
  constructor(settings: ReverbSettings) {
    super(PLATE, settings)
  }
}

export class Room extends Reverb {
  constructor(settings: ReverbSettings) {
    super(ROOM, settings)
  }
}

export class Hall extends Reverb {
  constructor(settings: ReverbSettings) {
    super(HALL, settings)
  }
}
