/** The inner loop of filters that change a rate. */
import { CONVOLVE_WASM } from './convolve-wasm'
import type { Planar } from './frames'
import { compileKernel } from './kernel'

const PAGE_BYTES = 65_536

/** Dot products along a signal, in WebAssembly, where four products are made at once: about six times as fast as they can be written here. */
export class Convolver {
  private static module: WebAssembly.Module | null = null
  private readonly memory: WebAssembly.Memory
  private readonly convolve: (...args: number[]) => void
  private readonly convolvePair: (...args: number[]) => void
  private readonly taps: number
  private readonly phasesBytes: number

  /**
   * @param phases Rows of taps, each a multiple of sixteen long; outputs take them in turn, `down` rows on from one to the next.
   * @param up Rows.
   */
  constructor(
    phases: Float32Array,
    private readonly up: number,
    private readonly down: number,
  ) {
    Convolver.module ??= compileKernel(CONVOLVE_WASM)
    const { memory, convolve, convolvePair } = new WebAssembly.Instance(Convolver.module).exports
    this.memory = memory as WebAssembly.Memory
    this.convolve = convolve as (...args: number[]) => void
    this.convolvePair = convolvePair as (...args: number[]) => void
    this.taps = phases.length / up
    this.phasesBytes = phases.byteLength
    this.grow(this.phasesBytes)
    new Float32Array(this.memory.buffer).set(phases)
  }

  /**
   * `count` outputs of each channel, the first from input frame `whole` on with the taps of `phase`.
   * @param channels One or two, of equal length; each in pieces that follow one another.
   * @returns Views into its own memory, good until the next run.
   */
  run(channels: readonly (readonly Float32Array[])[], whole: number, phase: number, count: number): Planar {
    if (count <= 0) return channels.map(() => new Float32Array(0))
    // The last stretch is read to a multiple of sixteen; those taps are zero, but what they meet must be a number.
    const inputGap = 4 * (channels[0].reduce((sum, piece) => sum + piece.length, 0) + this.taps)
    const inputAt = this.phasesBytes
    const outputAt = inputAt + channels.length * inputGap
    this.grow(outputAt + channels.length * 4 * count)
    const floats = new Float32Array(this.memory.buffer)
    channels.forEach((pieces, c) => {
      let at = (inputAt + c * inputGap) / 4
      for (const piece of pieces) {
        floats.set(piece, at)
        at += piece.length
      }
      floats.fill(0, at, at + this.taps)
    })
    const numbers = [count, 0, this.taps, this.up, whole, phase, Math.floor(this.down / this.up), this.down % this.up]
    if (channels.length === 2) this.convolvePair(inputAt, inputGap, outputAt, 4 * count, ...numbers)
    else this.convolve(inputAt, outputAt, ...numbers)
    return channels.map((_, c) => floats.subarray(outputAt / 4 + c * count, outputAt / 4 + (c + 1) * count))
  }

  private grow(bytes: number): void {
    const missing = bytes - this.memory.buffer.byteLength
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE_BYTES))
  }
}
