/** Sound at four times its rate and back, for what bends the wave: overtones above half the rate must not fold down. */
import { Convolver } from '../audio/convolve'
import { BLOCK_FRAMES } from '../audio/frames'
import { besselI0, kaiserBeta } from '../audio/window'

export const OVERSAMPLING = 4
/** On each side of the middle, at the higher rate: flat to 20 kHz and 90 dB down from 28 kHz on, by Kaiser's length formula. */
const HALF_TAPS = 72
const ATTENUATION_DECIBELS = 90
/** Up and down again; each way delays by HALF_TAPS frames of the higher rate. */
export const OVERSAMPLING_LATENCY_FRAMES = (2 * HALF_TAPS) / OVERSAMPLING

const TAPS = makeTaps()

/** A windowed sinc at a quarter of the band, its sum 1. */
function makeTaps(): Float64Array {
  const beta = kaiserBeta(ATTENUATION_DECIBELS)
  const taps = Float64Array.from({ length: 2 * HALF_TAPS + 1 }, (_, i) => {
    const at = i - HALF_TAPS
    const x = (Math.PI * at) / OVERSAMPLING
    return (at === 0 ? 1 : Math.sin(x) / x) * besselI0(beta * Math.sqrt(1 - (at / HALF_TAPS) ** 2))
  })
  const sum = taps.reduce((a, b) => a + b, 0)
  return taps.map(tap => tap / sum)
}

/** Frames of the past that a tap can reach. */
const PAST_FRAMES = (2 * HALF_TAPS) / OVERSAMPLING
const FINE_PAST_FRAMES = 2 * HALF_TAPS
/** The kernel takes sixteen taps at a time. */
const inSixteens = (taps: number) => 16 * Math.ceil(taps / 16)

/** One for all oversamplers of a thread: what they remember is their own. */
let kernels: { up: Convolver; down: Convolver } | null = null

function makeKernels(): { up: Convolver; down: Convolver } {
  // A row of taps for each of the fine frames that one frame becomes, the earliest frame first.
  const length = inSixteens(PAST_FRAMES + 1)
  const rows = new Float32Array(OVERSAMPLING * length)
  for (let tap = 0; tap <= 2 * HALF_TAPS; tap++) rows[(tap % OVERSAMPLING) * length + PAST_FRAMES - Math.floor(tap / OVERSAMPLING)] = OVERSAMPLING * TAPS[tap]
  const row = new Float32Array(inSixteens(2 * HALF_TAPS + 1))
  for (let tap = 0; tap <= 2 * HALF_TAPS; tap++) row[2 * HALF_TAPS - tap] = TAPS[tap]
  return { up: new Convolver(rows, OVERSAMPLING, 1), down: new Convolver(row, 1, OVERSAMPLING) }
}

/** One way, up or down: what it remembers of both sides. Without allocation for whole blocks. */
class Way {
  /** Of each side what came before and what comes. */
  private readonly both: [Float32Array, Float32Array][]
  private readonly one: [Float32Array, Float32Array][]
  private readonly into: [Float32Array, Float32Array]

  constructor(
    private readonly kernel: Convolver,
    pastFrames: number,
  ) {
    const nothing = new Float32Array(0)
    this.both = [0, 1].map(() => [new Float32Array(pastFrames), nothing])
    this.one = [this.both[0]]
    this.into = [nothing, nothing]
  }

  /** `count` frames of each side; the same array for both is one side. */
  pass(left: Float32Array, right: Float32Array, intoLeft: Float32Array, intoRight: Float32Array, count: number): void {
    const { both, into } = this
    const sides = left === right ? this.one : both
    both[0][1] = left
    both[1][1] = right
    into[0] = intoLeft
    into[1] = intoRight
    this.kernel.runInto(into, sides, 0, 0, count)
    for (let side = 0; side < sides.length; side++) remember(sides[side][0], sides[side][1])
  }

  reset(): void {
    for (const [past] of this.both) past.fill(0)
  }
}

/** Two channels, or one that is both. `up` and `down` belong together, block by block; what is done to the sound between them is the caller's. */
export class Oversampler {
  /** Filled by `up`, read by `down`; of one channel only the first. */
  readonly fine = [new Float32Array(OVERSAMPLING * BLOCK_FRAMES), new Float32Array(OVERSAMPLING * BLOCK_FRAMES)] as const
  private readonly wayUp: Way
  private readonly wayDown: Way

  constructor() {
    kernels ??= makeKernels()
    this.wayUp = new Way(kernels.up, PAST_FRAMES)
    this.wayDown = new Way(kernels.down, FINE_PAST_FRAMES)
  }

  /** @param left At most BLOCK_FRAMES; neither side is changed. */
  up(left: Float32Array, right: Float32Array): void {
    this.wayUp.pass(left, right, this.fine[0], this.fine[1], OVERSAMPLING * left.length)
  }

  /** Writes the blocks that `fine` holds. */
  down(left: Float32Array, right: Float32Array): void {
    const frames = OVERSAMPLING * left.length
    const fineLeft = frames === this.fine[0].length ? this.fine[0] : this.fine[0].subarray(0, frames)
    const fineRight = left === right ? fineLeft : frames === this.fine[1].length ? this.fine[1] : this.fine[1].subarray(0, frames)
    this.wayDown.pass(fineLeft, fineRight, left, right, left.length)
  }

  reset(): void {
    this.wayUp.reset()
    this.wayDown.reset()
  }
}

/** The last frames, of what was remembered and then came. */
function remember(past: Float32Array, came: Float32Array): void {
  const kept = Math.max(0, past.length - came.length)
  past.copyWithin(0, past.length - kept)
  const from = came.length - (past.length - kept)
  for (let i = kept; i < past.length; i++) past[i] = came[from + i - kept]
}
