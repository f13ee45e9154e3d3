/** One channel at four times its rate and back, for what bends the wave: overtones above half the rate must not fold down. */
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
const PAST_FRAMES = Math.ceil((2 * HALF_TAPS) / OVERSAMPLING)

/** `up` and `down` belong together, block by block; what is done to the sound between them is the caller's. */
export class Oversampler {
  /** Filled by `up`, read by `down`. */
  readonly fine = new Float32Array(OVERSAMPLING * BLOCK_FRAMES)
  private readonly past = new Float32Array(PAST_FRAMES + BLOCK_FRAMES)
  private readonly finePast = new Float32Array(2 * HALF_TAPS + OVERSAMPLING * BLOCK_FRAMES)

  /** @param block At most BLOCK_FRAMES; not changed. */
  up(block: Float32Array): void {
    const { past, fine } = this
    past.set(block, PAST_FRAMES)
    for (let i = 0; i < block.length; i++) {
      for (let phase = 0; phase < OVERSAMPLING; phase++) {
        let sum = 0
        for (let tap = phase, at = PAST_FRAMES + i; tap <= 2 * HALF_TAPS; tap += OVERSAMPLING, at--) sum += TAPS[tap] * past[at]
        fine[OVERSAMPLING * i + phase] = OVERSAMPLING * sum
      }
    }
    past.copyWithin(0, block.length, PAST_FRAMES + block.length)
  }

  /** Writes the block that `fine` holds. */
  down(block: Float32Array): void {
    const { fine, finePast } = this
    const frames = OVERSAMPLING * block.length
    finePast.set(frames === fine.length ? fine : fine.subarray(0, frames), 2 * HALF_TAPS)
    for (let i = 0; i < block.length; i++) {
      let sum = 0
      for (let tap = 0, at = 2 * HALF_TAPS + OVERSAMPLING * i; tap <= 2 * HALF_TAPS; tap++, at--) sum += TAPS[tap] * finePast[at]
      block[i] = sum
    }
    finePast.copyWithin(0, frames, 2 * HALF_TAPS + frames)
  }

  reset(): void {
    this.past.fill(0)
    this.finePast.fill(0)
  }
}
