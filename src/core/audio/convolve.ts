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
  /** All of its memory. */
  private floats: Float32Array<ArrayBuffer>

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
    this.floats = new Float32Array(this.memory.buffer)
    this.grow(this.phasesBytes)
    this.floats.set(phases)
  }

  /**
   * `count` outputs of each channel, the first from input frame `whole` on with the taps of `phase`.
   * @param channels One or two, of equal length; each in pieces that follow one another.
   * @returns Views into its own memory, good until the next run.
   */
  run(channels: readonly (readonly Float32Array[])[], whole: number, phase: number, count: number): Planar {
    if (count <= 0) return channels.map(() => new Float32Array(0))
    const outputAt = this.convolveAll(channels, whole, phase, count)
    return channels.map((_, c) => this.floats.subarray(outputAt + c * count, outputAt + (c + 1) * count))
  }

  /** @returns where in the memory's floats the outputs begin, one channel after the other. */
  private convolveAll(channels: readonly (readonly Float32Array[])[], whole: number, phase: number, count: number): number {
    // The last stretch is read to a multiple of sixteen; those taps are zero, but what they meet must be a number.
    let inputFrames = 0
    for (const piece of channels[0]) inputFrames += piece.length
    const inputGap = 4 * (inputFrames + this.taps)
    const inputAt = this.phasesBytes
    const outputAt = inputAt + channels.length * inputGap
    this.grow(outputAt + channels.length * 4 * count)
    const { floats, taps, up } = this
    for (let c = 0; c < channels.length; c++) {
      let at = (inputAt + c * inputGap) / 4
      for (const piece of channels[c]) {
        floats.set(piece, at)
        at += piece.length
      }
      floats.fill(0, at, at + taps)
    }
    const stepWhole = Math.floor(this.down / up)
    const stepPhase = this.down % up
    if (channels.length === 2) this.convolvePair(inputAt, inputGap, outputAt, 4 * count, count, 0, taps, up, whole, phase, stepWhole, stepPhase)
    else this.convolve(inputAt, outputAt, count, 0, taps, up, whole, phase, stepWhole, stepPhase)
    return outputAt / 4
  }

  private grow(bytes: number): void {
    const missing = bytes - this.memory.buffer.byteLength
    if (missing <= 0) return
    this.memory.grow(Math.ceil(missing / PAGE_BYTES))
    this.floats = new Float32Array(this.memory.buffer)
  }
}
