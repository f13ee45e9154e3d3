/** What effects that follow a level have in common: their computation in WebAssembly, and what one of them remembers from block to block. */
import { BLOCK_FRAMES } from '../audio/frames'
import { compileKernel } from '../audio/kernel'
import { DYNAMICS_WASM } from './dynamics-wasm'

/** See dynamics.wat; all in decibels and linear levels, poles a frame. */
interface Exports {
  memory: WebAssembly.Memory
  compress: (
    pair: number,
    count: number,
    lower: number,
    knee: number,
    slope: number,
    attack: number,
    release: number,
    makeup: number,
    makeupStep: number,
    mix: number,
    mixStep: number,
  ) => void
  lower: (pair: number, count: number, threshold: number, range: number, attack: number, release: number) => void
  gate: (pair: number, count: number, opens: number, stays: number, hold: number, closed: number, closedStep: number, attack: number, release: number) => void
}

/** One for all of a thread: what is in its memory is of the block that is computed. */
interface Kernel extends Omit<Exports, 'memory'> {
  sides: readonly [Float32Array, Float32Array]
  band: readonly [Float32Array, Float32Array]
  factors: Float32Array
  state: Float64Array
}

let kernel: Kernel | null = null

function loadKernel(): Kernel {
  const { memory, ...functions } = new WebAssembly.Instance(compileKernel(DYNAMICS_WASM)).exports as unknown as Exports
  const block = (byte: number) => new Float32Array(memory.buffer, byte, BLOCK_FRAMES)
  return {
    ...functions,
    sides: [block(0), block(512)],
    band: [block(1_024), block(1_536)],
    factors: block(2_560),
    state: new Float64Array(memory.buffer, 3_072, 2),
  }
}

/** One effect's part in it: what it remembers from block to block. In blocks of at most BLOCK_FRAMES. */
export class Dynamics {
  /** How far it turns down, in decibels, >= 0, and what stands behind it: see the kernel's functions. */
  readonly state = new Float64Array(2)
  /** Only where someone follows. */
  private factors: Float32Array | null = null

  /** What each frame of the last block was multiplied by, or the share that was taken of its band. */
  follow(): Float32Array {
    return (this.factors ??= new Float32Array(BLOCK_FRAMES))
  }

  reset(): void {
    this.state.fill(0)
  }

  /** Puts the block where the kernel finds it; one of its functions must follow, and then `end`. One channel: the same array for both. */
  begin(left: Float32Array, right: Float32Array): Kernel {
    kernel ??= loadKernel()
    kernel.sides[0].set(left)
    if (left !== right) kernel.sides[1].set(right)
    kernel.state.set(this.state)
    return kernel
  }

  end({ sides, state, factors }: Kernel, left: Float32Array, right: Float32Array): void {
    copy(sides[0], left)
    if (left !== right) copy(sides[1], right)
    this.state.set(state)
    if (this.factors) copy(factors, this.factors)
  }
}

function copy(from: Float32Array, to: Float32Array): void {
  to.set(to.length === from.length ? from : from.subarray(0, to.length))
}
