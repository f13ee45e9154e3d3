/** One channel at four times its rate and back, for what bends the wave: overtones above half the rate must not fold down. */
import { compileKernel } from '../audio/kernel'
import { BLOCK_FRAMES } from '../audio/frames'
import { besselI0, kaiserBeta } from '../audio/window'
import { SATURATE_WASM } from './saturate-wasm'

/**
 * Two half-band filters one after the other, each way: every second tap is nothing but the middle, and what the one doubles is easy for the other.
 * Flat to 20 kHz and 100 dB down from 28 kHz on, by Kaiser's length formula: half their lengths.
 * @see F. J. Harris, Multirate signal processing for communication systems (2004), chapter 8.
 */
const FIRST_HALF = 39
const SECOND_HALF = 13
const ATTENUATION_DECIBELS = 100
/** Up and down again, and a sample of the middle rate more, so that it is whole frames. */
export const OVERSAMPLING_LATENCY_FRAMES = (2 * FIRST_HALF + SECOND_HALF + 1) / 2

/** The taps that are not nothing, from the first to the middle, which itself is a half. */
function halfBand(half: number, gain: number): Float32Array {
  const beta = kaiserBeta(ATTENUATION_DECIBELS)
  const taps = Float64Array.from({ length: (half + 1) / 2 }, (_, i) => {
    const at = half - 2 * i
    return (Math.sin((Math.PI * at) / 2) / (Math.PI * at)) * besselI0(beta * Math.sqrt(1 - (at / half) ** 2))
  })
  // All of them together are the other half.
  const sum = 2 * taps.reduce((a, b) => a + b, 0)
  return Float32Array.from(taps, tap => (tap * gain * 0.5) / sum)
}

/** Where in a kernel's memory, in floats: first what is left of the past, and behind it what comes. */
const PAST = 48
const MIDDLE_FRAMES = 2 * BLOCK_FRAMES
const areas = { at: 0 }
const area = (frames: number) => {
  const { at } = areas
  // Eight more, for what is rounded up to.
  areas.at += PAST + frames + 8
  return at + PAST
}
const TAPS_UP = [area(FIRST_HALF), area(SECOND_HALF)]
const TAPS_DOWN = [area(FIRST_HALF), area(SECOND_HALF)]
const INPUT = area(BLOCK_FRAMES)
const EVEN = area(BLOCK_FRAMES)
const MIDDLE = area(MIDDLE_FRAMES)
const FINE_EVEN = area(MIDDLE_FRAMES)
const BENT_EVEN = area(MIDDLE_FRAMES)
const BENT_ODD = area(MIDDLE_FRAMES)
const FACTORS_EVEN = area(MIDDLE_FRAMES)
const FACTORS_ODD = area(MIDDLE_FRAMES)
const HALVED = area(MIDDLE_FRAMES)
const HALVED_EVEN = area(BLOCK_FRAMES)
const HALVED_ODD = area(BLOCK_FRAMES)
const OUTPUT = area(BLOCK_FRAMES)
/** Of these something is remembered. */
const REMEMBERED: readonly [at: number, perFrame: number][] = [
  [INPUT, 1],
  [MIDDLE, 2],
  [BENT_EVEN, 2],
  [BENT_ODD, 2],
  [HALVED_EVEN, 1],
  [HALVED_ODD, 1],
]

let kernel: WebAssembly.Module | null = null
type Call = (...args: number[]) => void

/** What lies between `up` and `down` is bent by a curve, or by the factors of another that was. */
export class Oversampler {
  private readonly calls: Record<'filter' | 'bend' | 'multiply' | 'interleave' | 'part' | 'shift', Call>
  private readonly floats: Float32Array
  private readonly input: Float32Array
  private readonly output: Float32Array
  /** By how much each fine sample was lowered: the even ones, and the odd ones. */
  readonly factors: readonly [Float32Array, Float32Array]

  constructor() {
    kernel ??= compileKernel(SATURATE_WASM)
    const { exports } = new WebAssembly.Instance(kernel)
    this.calls = exports as unknown as typeof this.calls
    this.floats = new Float32Array((exports.memory as WebAssembly.Memory).buffer)
    this.input = this.floats.subarray(INPUT, INPUT + BLOCK_FRAMES)
    this.output = this.floats.subarray(OUTPUT, OUTPUT + BLOCK_FRAMES)
    this.factors = [this.floats.subarray(FACTORS_EVEN, FACTORS_EVEN + MIDDLE_FRAMES), this.floats.subarray(FACTORS_ODD, FACTORS_ODD + MIDDLE_FRAMES)]
    for (const [half, up, down] of [
      [FIRST_HALF, TAPS_UP[0], TAPS_DOWN[0]],
      [SECOND_HALF, TAPS_UP[1], TAPS_DOWN[1]],
    ]) {
      this.floats.set(halfBand(half, 2), up)
      this.floats.set(halfBand(half, 1), down)
    }
  }

  /** @param block At most BLOCK_FRAMES; not changed. */
  up(block: Float32Array): void {
    const frames = block.length
    const { filter, interleave } = this.calls
    this.input.set(block)
    filter(4 * INPUT, 4 * EVEN, frames, 4 * TAPS_UP[0], (FIRST_HALF + 1) / 2, FIRST_HALF, 4 * INPUT, 0)
    interleave(4 * EVEN, 4 * (INPUT - (FIRST_HALF - 1) / 2), 4 * MIDDLE, frames)
    filter(4 * MIDDLE, 4 * FINE_EVEN, 2 * frames, 4 * TAPS_UP[1], (SECOND_HALF + 1) / 2, SECOND_HALF, 4 * MIDDLE, 0)
  }

  /** tanh(drive x) / drive; the drive goes in a straight line from the block's start to its end. */
  bend(frames: number, drive: number, driveAtEnd: number): void {
    const step = (driveAtEnd - drive) / (2 * frames)
    this.calls.bend(4 * FINE_EVEN, 4 * BENT_EVEN, 4 * FACTORS_EVEN, 2 * frames, drive, step)
    this.calls.bend(4 * (MIDDLE - (SECOND_HALF - 1) / 2), 4 * BENT_ODD, 4 * FACTORS_ODD, 2 * frames, drive, step)
  }

  /** Lowers each fine sample as another oversampler's was. */
  bendAs(other: Oversampler, frames: number): void {
    for (let side = 0; side < 2; side++) this.factors[side].set(other.factors[side])
    this.calls.multiply(4 * FINE_EVEN, 4 * BENT_EVEN, 4 * FACTORS_EVEN, 2 * frames)
    this.calls.multiply(4 * (MIDDLE - (SECOND_HALF - 1) / 2), 4 * BENT_ODD, 4 * FACTORS_ODD, 2 * frames)
  }

  /** Overwrites the block. */
  down(block: Float32Array): void {
    const frames = block.length
    const { filter, part, shift } = this.calls
    filter(4 * BENT_EVEN, 4 * HALVED, 2 * frames, 4 * TAPS_DOWN[1], (SECOND_HALF + 1) / 2, SECOND_HALF, 4 * (BENT_ODD - (SECOND_HALF + 1) / 2), 0.5)
    part(4 * HALVED, 4 * HALVED_EVEN, 4 * HALVED_ODD, frames)
    // A sample of the middle rate late: the odd ones are filtered, and the even ones are the middle.
    filter(4 * (HALVED_ODD - 1), 4 * OUTPUT, frames, 4 * TAPS_DOWN[0], (FIRST_HALF + 1) / 2, FIRST_HALF, 4 * (HALVED_EVEN - (FIRST_HALF + 1) / 2), 0.5)
    block.set(frames === BLOCK_FRAMES ? this.output : this.output.subarray(0, frames))
    for (let i = 0; i < REMEMBERED.length; i++) shift(4 * (REMEMBERED[i][0] - PAST), PAST, REMEMBERED[i][1] * frames)
  }

  reset(): void {
    for (const [at] of REMEMBERED) this.floats.fill(0, at - PAST, at)
  }
}
