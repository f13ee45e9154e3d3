/** Sample-rate conversion by a windowed sinc, in one pass, chunk by chunk. */
import { Convolver } from './convolve'
import { concatMono, type Mono, type Planar } from './frames'
import { besselI0, kaiserBeta } from './window'

const STOP_BAND_DECIBELS = 110
/** The pass band ends this fraction below the lower rate's half, the stop band begins as much above it. */
const TRANSITION_FRACTION = 0.093

/**
 * Converts one channel or two from one whole-number rate to another. Output frame k lies at input time k / outputRate exactly:
 * nothing is delayed. The pass band reaches to 91 % of the lower half rate (20 kHz at 44.1 kHz); what is folded back into it lies below -100 dB.
 * @see J. O. Smith, Digital Audio Resampling, https://ccrma.stanford.edu/~jos/resample/
 */
export class Resampler {
  private readonly up: number
  private readonly down: number
  private readonly halfTaps: number
  private readonly kernel: Convolver
  /** Input frames not yet fully used, beginning at input frame `heldFrom`. */
  private held: Planar
  private heldFrom: number
  private inputFrames = 0
  private outputFrames = 0

  /** @throws RangeError if a rate is not a whole number of hertz from 1 to 768 000. */
  constructor(inputRateHz: number, outputRateHz: number, channels: 1 | 2) {
    for (const rate of [inputRateHz, outputRateHz]) {
      if (!Number.isInteger(rate) || rate < 1 || rate > 768_000) throw new RangeError(`sample rate must be a whole number from 1 to 768000 Hz, got ${rate}`)
    }
    const divisor = greatestCommonDivisor(inputRateHz, outputRateHz)
    this.up = outputRateHz / divisor
    this.down = inputRateHz / divisor
    const cutoff = Math.min(1, outputRateHz / inputRateHz)
    // Kaiser's length formula; the transition is measured in cycles per input frame.
    const transition = Math.min(1, outputRateHz / inputRateHz) * TRANSITION_FRACTION
    this.halfTaps = Math.ceil((STOP_BAND_DECIBELS - 7.95) / (2.285 * 2 * Math.PI * transition) / 2)
    this.kernel = new Convolver(makePhases(this.up, this.halfTaps, cutoff), this.up, this.down)
    this.heldFrom = -this.halfTaps
    this.held = Array.from({ length: channels }, () => new Float32Array(this.halfTaps))
  }

  /** Takes the next input and gives all output that can already be known, good until the next call. */
  push(input: Planar): Planar {
    this.inputFrames += input[0].length
    return this.advance(input, Infinity)
  }

  /** Gives the last frames; the total output is the input's length times the ratio of the rates, rounded up. */
  flush(): Planar {
    const total = Math.ceil((this.inputFrames * this.up) / this.down)
    return this.advance(
      this.held.map(() => new Float32Array(this.halfTaps + 1)),
      total,
    )
  }

  private advance(input: Planar, totalFrames: number): Planar {
    const { up, down, halfTaps } = this
    const heldFrames = this.held[0].length
    const endInput = this.heldFrom + heldFrames + input[0].length
    // Output k needs input up to floor(k*down/up) + halfTaps.
    const computable = Math.max(this.outputFrames, Math.min(totalFrames, Math.floor(((endInput - 1 - halfTaps) * up) / down) + 1))
    const whole = Math.floor((this.outputFrames * down) / up)
    const output = this.kernel.run(
      input.map((plane, c) => [this.held[c], plane]),
      whole - halfTaps + 1 - this.heldFrom,
      this.outputFrames * down - whole * up,
      computable - this.outputFrames,
    )
    this.outputFrames = computable
    const firstNeeded = Math.floor((computable * down) / up) - halfTaps + 1
    const keepFrom = Math.max(0, firstNeeded - this.heldFrom)
    this.held = input.map((plane, c) => (keepFrom >= heldFrames ? plane.slice(keepFrom - heldFrames) : concatMono(this.held[c].subarray(keepFrom), plane)))
    this.heldFrom += keepFrom
    return output
  }
}

/** Converts a whole signal at once. The same array comes back if the rates are equal. */
export function resample(signal: Mono, inputRateHz: number, outputRateHz: number): Mono {
  if (inputRateHz === outputRateHz) return signal
  const resampler = new Resampler(inputRateHz, outputRateHz, 1)
  const head = resampler.push([signal])[0].slice()
  return concatMono(head, resampler.flush()[0])
}

/**
 * For each of `up` phases, the taps that weigh input frames -halfTaps+1 .. halfTaps round the output's place, filled up with zeros
 * to a multiple of sixteen.
 */
function makePhases(up: number, halfTaps: number, cutoff: number): Float32Array {
  const beta = kaiserBeta(STOP_BAND_DECIBELS)
  const norm = besselI0(beta)
  const taps = 2 * halfTaps
  const row = Math.ceil(taps / 16) * 16
  const phases = new Float32Array(up * row)
  const values = new Float64Array(taps)
  for (let phase = 0; phase < up; phase++) {
    const fraction = phase / up
    let sum = 0
    for (let t = 0; t < taps; t++) {
      const distance = t - halfTaps + 1 - fraction
      const x = distance / halfTaps
      const window = Math.abs(x) >= 1 ? 0 : besselI0(beta * Math.sqrt(1 - x * x)) / norm
      const angle = Math.PI * cutoff * distance
      values[t] = (Math.abs(angle) < 1e-9 ? cutoff : (cutoff * Math.sin(angle)) / angle) * window
      sum += values[t]
    }
    // Unity at 0 Hz for every phase, so that a constant stays constant.
    for (let t = 0; t < taps; t++) phases[phase * row + t] = values[t] / sum
  }
  return phases
}

function greatestCommonDivisor(a: number, b: number): number {
  return b === 0 ? a : greatestCommonDivisor(b, a % b)
}
