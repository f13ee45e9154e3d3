/** What comes before the body of a reverb: a pre-delay, the answers of the nearest walls, and all-pass filters that smear what goes on. */
import { BLOCK_FRAMES } from '../audio/frames'
import { compileKernel } from '../audio/kernel'
import { WALLS_WASM } from './walls-wasm'

/** A wall's answer: how late and how loud. */
export type Reflection = readonly [frames: number, gain: number]

export interface WallsDesign {
  /** More than a block long each. */
  diffusers: readonly { frames: number; gain: number }[]
  /** By side. */
  reflections: readonly [left: readonly Reflection[], right: readonly Reflection[]]
}

/** See walls.wat. */
interface Kernel {
  memory: WebAssembly.Memory
  put: (ring: number, frames: number, at: number, block: number) => void
  get: (ring: number, frames: number, from: number, block: number) => void
  tap: (ring: number, frames: number, from: number, into: number, gain: number) => void
  smear: (ring: number, frames: number, at: number, block: number, gain: number) => void
}

interface Smear {
  ring: number
  frames: number
  gain: number
  at: number
}

const MOST_PRE_DELAY_FRAMES = 9_600
/** Of the largest hall. */
const MOST_REFLECTION_FRAMES = 2_400
const RING_FRAMES = MOST_PRE_DELAY_FRAMES + MOST_REFLECTION_FRAMES + BLOCK_FRAMES

/** One side, in WebAssembly. Blocks of BLOCK_FRAMES. */
class Side {
  /** What goes in, and then what goes on. */
  readonly block: Float32Array
  /** What the walls answer. */
  readonly answer: Float32Array
  private readonly old: Float32Array
  private readonly smears: Smear[] = []
  private at = 0
  private readonly ring: number
  /** All that belongs to it, in the kernel's memory. */
  private readonly floats: Float32Array
  readonly endByte: number

  /** @param byte Where in the kernel's memory it begins. */
  constructor(
    private readonly kernel: Kernel,
    private readonly byte: number,
    private readonly reflections: readonly Reflection[],
    diffusers: WallsDesign['diffusers'],
  ) {
    const view = (block: number) => new Float32Array(kernel.memory.buffer, byte + 4 * BLOCK_FRAMES * block, BLOCK_FRAMES)
    this.block = view(0)
    this.answer = view(1)
    this.old = view(2)
    this.ring = byte + 3 * 4 * BLOCK_FRAMES
    let ring = this.ring + 4 * RING_FRAMES
    for (const { frames, gain } of diffusers) {
      this.smears.push({ ring, frames, gain, at: 0 })
      ring += 4 * frames
    }
    this.endByte = ring
    this.floats = new Float32Array(kernel.memory.buffer, byte, (ring - byte) / 4)
  }

  reset(): void {
    this.floats.fill(0)
    this.at = 0
    for (const smear of this.smears) smear.at = 0
  }

  /** Takes in `block`, and leaves in it what goes on; the walls' answer is in `answer`. @param share 0..1 at the block's start, of the new delay. */
  process(delayFrames: number, oldDelayFrames: number, share: number, step: number): void {
    const { kernel, byte, ring, reflections, smears } = this
    const place = this.at
    kernel.put(ring, RING_FRAMES, place, byte)
    this.at = (place + BLOCK_FRAMES) % RING_FRAMES
    const late = (frames: number) => (place - frames + RING_FRAMES) % RING_FRAMES
    if (reflections.length > 0) this.answer.fill(0)
    for (let r = 0; r < reflections.length; r++)
      kernel.tap(ring, RING_FRAMES, late(delayFrames + reflections[r][0]), byte + 4 * BLOCK_FRAMES, reflections[r][1])
    kernel.get(ring, RING_FRAMES, late(delayFrames), byte)
    if (share < 1) {
      kernel.get(ring, RING_FRAMES, late(oldDelayFrames), byte + 8 * BLOCK_FRAMES)
      for (let i = 0; i < BLOCK_FRAMES; i++) this.block[i] = this.old[i] + (share + step * i) * (this.block[i] - this.old[i])
    }
    for (let s = 0; s < smears.length; s++) {
      const smear = smears[s]
      kernel.smear(smear.ring, smear.frames, smear.at, byte, smear.gain)
      smear.at = (smear.at + BLOCK_FRAMES) % smear.frames
    }
  }
}

/** A changed pre-delay is faded over to in this many blocks. */
const FADE_BLOCKS = 4

export class Walls {
  private static module: WebAssembly.Module | null = null
  readonly sides: readonly [Side, Side]
  /** Whether walls answer at all. */
  readonly answer: boolean
  private delayFrames = 0
  /** Where the pre-delay was, while it fades over to where it is now. */
  private oldDelayFrames = 0
  private fadeBlocks = 0

  constructor({ diffusers, reflections }: WallsDesign) {
    Walls.module ??= compileKernel(WALLS_WASM)
    const kernel = new WebAssembly.Instance(Walls.module).exports as unknown as Kernel
    const left = new Side(kernel, 0, reflections[0], diffusers)
    this.sides = [left, new Side(kernel, left.endByte, reflections[1], diffusers)]
    this.answer = reflections.some(side => side.length > 0)
  }

  /** Glides to another pre-delay over the next blocks. @param frames At most a fifth of a second. */
  setDelay(frames: number): void {
    if (frames === this.delayFrames) return
    // A fade that is going on begins anew from the nearer of its ends.
    if (this.fadeBlocks <= FADE_BLOCKS / 2) this.oldDelayFrames = this.delayFrames
    this.delayFrames = frames
    this.fadeBlocks = FADE_BLOCKS
  }

  settle(): void {
    this.fadeBlocks = 0
  }

  reset(): void {
    this.settle()
    for (const side of this.sides) side.reset()
  }

  /** Both sides' blocks; see `Side`. */
  process(left: Float32Array, right: Float32Array): void {
    const { sides, delayFrames, oldDelayFrames } = this
    const share = (FADE_BLOCKS - this.fadeBlocks) / FADE_BLOCKS
    sides[0].block.set(left)
    sides[1].block.set(right)
    for (let s = 0; s < 2; s++) sides[s].process(delayFrames, oldDelayFrames, share, 1 / (BLOCK_FRAMES * FADE_BLOCKS))
    if (this.fadeBlocks > 0) this.fadeBlocks--
  }
}
