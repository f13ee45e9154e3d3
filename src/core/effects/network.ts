/** Eight delay lines that feed each other through Householder's reflection: the body of a reverb. */
import { BLOCK_FRAMES } from '../audio/frames'
import { compileKernel } from '../audio/kernel'
import { NETWORK_WASM } from './network-wasm'

export const NETWORK_LINES = 8

/** Where what lies in the kernel's memory, in bytes: see network.wat. */
const PLACES = {
  at: 0,
  length: 32,
  state: 64,
  gain: 96,
  step: 128,
  leftSign: 160,
  rightSign: 192,
  inputs: [256, 768],
  outputs: [1_280, 1_792],
  lines: 6_400,
} as const
const MEMORY_BYTES = 196_608

/** In WebAssembly, four lines at a time: the loop over lines and frames is most of what a space costs. */
export class Network {
  private static module: WebAssembly.Module | null = null
  /** Of the next block, to be written before `run`: the left side feeds every second line from the first, the right side the others. */
  readonly inputs: readonly [Float32Array, Float32Array]
  /** What the lines gave in the last block, summed by their signs. */
  readonly outputs: readonly [Float32Array, Float32Array]
  private readonly kernel: (damping: number) => void
  private readonly floats: Float32Array
  private readonly whole: Int32Array
  /** Reached within the next block. */
  private readonly wanted = new Float32Array(NETWORK_LINES)

  /**
   * @param lineFrames Eight lengths, each more than a block, so that a block can be read before it is written.
   * @param leftSigns With which each line reaches the left output; `rightSigns` the right one.
   * @throws RangeError if there is no room for so long lines.
   */
  constructor(
    private readonly lineFrames: readonly number[],
    leftSigns: readonly number[],
    rightSigns: readonly number[],
  ) {
    const frames = lineFrames.reduce((sum, length) => sum + length, 0)
    if (lineFrames.length !== NETWORK_LINES || lineFrames.some(length => length <= BLOCK_FRAMES) || PLACES.lines + 4 * frames > MEMORY_BYTES)
      throw new RangeError(`eight lines longer than ${BLOCK_FRAMES} frames are needed, ${(MEMORY_BYTES - PLACES.lines) / 4} frames together at most`)
    Network.module ??= compileKernel(NETWORK_WASM)
    const { memory, run } = new WebAssembly.Instance(Network.module).exports
    const { buffer } = memory as WebAssembly.Memory
    this.kernel = run as (damping: number) => void
    this.floats = new Float32Array(buffer)
    this.whole = new Int32Array(buffer)
    const pair = ([left, right]: readonly [number, number]) =>
      [new Float32Array(buffer, left, BLOCK_FRAMES), new Float32Array(buffer, right, BLOCK_FRAMES)] as const
    this.inputs = pair(PLACES.inputs)
    this.outputs = pair(PLACES.outputs)
    this.whole.set(lineFrames, PLACES.length / 4)
    this.floats.set(leftSigns, PLACES.leftSign / 4)
    this.floats.set(rightSigns, PLACES.rightSign / 4)
  }

  /** What each line keeps of a turn through it, 0..1: reached within the next block. */
  setGains(gainOf: (lineFrames: number) => number): void {
    this.lineFrames.forEach((frames, k) => (this.wanted[k] = gainOf(frames)))
  }

  /** One block of BLOCK_FRAMES. @param damping The pole of a one-pole low pass in each line, 0..1. */
  run(damping: number): void {
    const { floats, wanted } = this
    for (let k = 0; k < NETWORK_LINES; k++) floats[PLACES.step / 4 + k] = (wanted[k] - floats[PLACES.gain / 4 + k]) / BLOCK_FRAMES
    this.kernel(damping)
    floats.set(wanted, PLACES.gain / 4)
  }

  /** Silent, and at its gains. */
  reset(): void {
    this.floats.fill(0, PLACES.lines / 4)
    this.floats.fill(0, PLACES.state / 4, PLACES.state / 4 + NETWORK_LINES)
    this.whole.fill(0, PLACES.at / 4, PLACES.at / 4 + NETWORK_LINES)
    this.settle()
  }

  settle(): void {
    this.floats.set(this.wanted, PLACES.gain / 4)
  }
}
