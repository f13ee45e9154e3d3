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

type Pair = readonly [left: Float32Array, right: Float32Array]

/** Two channels. `up` and `down` belong together, block by block; what is done to the sound between them is the caller's. */
export class Oversampler {
  /** Filled by `up`, read by `down`. */
  readonly fine: Pair = [new Float32Array(OVERSAMPLING * BLOCK_FRAMES), new Float32Array(OVERSAMPLING * BLOCK_FRAMES)]
  private readonly pasts = [new Float32Array(PAST_FRAMES), new Float32Array(PAST_FRAMES)]
  private readonly finePasts = [new Float32Array(FINE_PAST_FRAMES), new Float32Array(FINE_PAST_FRAMES)]

  constructor() {
    kernels ??= makeKernels()
  }

  /** @param left At most BLOCK_FRAMES; not changed, as its other side is not: the same array for one channel. */
  up(left: Float32Array, right: Float32Array): void {
    const { fine, pasts } = this
    const sides = left === right ? [left] : [left, right]
    const made = kernels!.up.run(
      sides.map((side, c) => [pasts[c], side]),
      0,
      0,
      OVERSAMPLING * left.length,
    )
    sides.forEach((side, c) => {
      fine[c].set(made[c])
      remember(pasts[c], side)
    })
  }

  /** Writes the blocks that `fine` holds. */
  down(left: Float32Array, right: Float32Array): void {
    const { fine, finePasts } = this
    const sides = left === right ? [left] : [left, right]
    const frames = OVERSAMPLING * left.length
    const came = sides.map((_, c) => (frames === fine[c].length ? fine[c] : fine[c].subarray(0, frames)))
    const made = kernels!.down.run(
      came.map((side, c) => [finePasts[c], side]),
      0,
      0,
      left.length,
    )
    sides.forEach((side, c) => {
      side.set(made[c])
      remember(finePasts[c], came[c])
    })
  }

  reset(): void {
    for (const past of [...this.pasts, ...this.finePasts]) past.fill(0)
  }
}

/** The last frames, of what was remembered and then came. */
function remember(past: Float32Array, came: Float32Array): void {
  const kept = Math.max(0, past.length - came.length)
  past.copyWithin(0, past.length - kept)
  past.set(kept > 0 ? came : came.subarray(came.length - past.length), kept)
}
