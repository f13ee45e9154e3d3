/** What is sent into the spaces within a block, in WebAssembly: every voice into every space is most of what a full mix adds up. */
import { BLOCK_FRAMES } from '../audio/frames'
import { compileKernel } from '../audio/kernel'
import type { Pair } from './bus'
import { SENDS_WASM } from './sends-wasm'

/** See sends.wat. */
const PAIR_BYTES = 2 * 4 * BLOCK_FRAMES

/** One for all of a thread: nothing in it is older than the block that is rendered. */
export class Sends {
  private static only: Sends | null = null
  /** What is sent, to be written first. */
  readonly block: Pair
  private readonly memory: WebAssembly.Memory
  private readonly addInto: (into: number, gain: number, step: number) => void
  private readonly inputs: Pair[] = []

  static get(): Sends {
    return (Sends.only ??= new Sends())
  }

  private constructor() {
    const { memory, add } = new WebAssembly.Instance(compileKernel(SENDS_WASM)).exports
    this.memory = memory as WebAssembly.Memory
    this.addInto = add as (into: number, gain: number, step: number) => void
    this.block = this.pairAt(0)
  }

  /** What the space of that number is sent in the block. @throws RangeError if there are more than a song can have. */
  inputOf(space: number): Pair {
    return (this.inputs[space] ??= this.pairAt((space + 1) * PAIR_BYTES))
  }

  /** Adds the block to what a space is sent, at a level that moves in a straight line. */
  add(space: number, gain: number, endGain: number): void {
    this.addInto((space + 1) * PAIR_BYTES, gain, (endGain - gain) / BLOCK_FRAMES)
  }

  private pairAt(byte: number): Pair {
    const { buffer } = this.memory
    return [new Float32Array(buffer, byte, BLOCK_FRAMES), new Float32Array(buffer, byte + PAIR_BYTES / 2, BLOCK_FRAMES)]
  }
}
