/** The inner loop of filters that change a rate. */
import { CONVOLVE_WASM } from './convolve-wasm'
import type { Mono } from './frames'

const PAGE_BYTES = 65_536

/** Dot products along a signal, in WebAssembly, where four products are made at once: about six times as fast as they can be written here. */
export class Convolver {
  private static module: WebAssembly.Module | null = null
  private readonly memory: WebAssembly.Memory
  private readonly convolve: (...args: number[]) => void
  private readonly taps: number
  private readonly phasesBytes: number

  /**
   * @param phases Rows of taps, each a multiple of sixteen long; outputs take them in turn, `down` rows on from one to the next.
   * @param up Rows.
   */
  constructor(phases: Float32Array, private readonly up: number, private readonly down: number) {
    Convolver.module ??= new WebAssembly.Module(Uint8Array.from(atob(CONVOLVE_WASM), letter => letter.charCodeAt(0)))
    const { memory, convolve } = new WebAssembly.Instance(Convolver.module).exports
    this.memory = memory as WebAssembly.Memory
    this.convolve = convolve as (...args: number[]) => void
    this.taps = phases.length / up
    this.phasesBytes = phases.byteLength
    this.grow(this.phasesBytes)
    new Float32Array(this.memory.buffer).set(phases)
  }

  /** `count` outputs, the first from `input[whole]` on with the taps of `phase`. */
  run(input: Float32Array, whole: number, phase: number, count: number): Mono {
    if (count <= 0) return new Float32Array(0)
    // The last stretch is read to a multiple of sixteen; those taps are zero, but what they meet must be a number.
    const inputAt = this.phasesBytes
    const outputAt = inputAt + 4 * (input.length + this.taps)
    this.grow(outputAt + 4 * count)
    const floats = new Float32Array(this.memory.buffer)
    floats.set(input, inputAt / 4)
    floats.fill(0, inputAt / 4 + input.length, outputAt / 4)
    this.convolve(inputAt, outputAt, count, 0, this.taps, this.up, whole, phase, Math.floor(this.down / this.up), this.down % this.up)
    return floats.slice(outputAt / 4, outputAt / 4 + count)
  }

  private grow(bytes: number): void {
    const missing = bytes - this.memory.buffer.byteLength
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE_BYTES))
  }
}
