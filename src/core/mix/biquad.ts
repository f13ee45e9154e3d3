/** Second-order filters for two channels, whose settings can change without a click. */
import { SAMPLE_RATE_HZ } from '../audio/frames'

/** Normalised coefficients (a0 = 1). */
export interface BiquadCoefficients {
  b0: number
  b1: number
  b2: number
  a1: number
  a2: number
}

/**
 * A second-order high pass; Butterworth for q = 0.7071.
 * @see R. Bristow-Johnson, Cookbook formulae for audio EQ biquad filter coefficients.
 */
export function highPass(cutoffHz: number, q = Math.SQRT1_2): BiquadCoefficients {
  const w0 = (2 * Math.PI * cutoffHz) / SAMPLE_RATE_HZ
  const alpha = Math.sin(w0) / (2 * q)
  const cosine = Math.cos(w0)
  const a0 = 1 + alpha
  return { b0: (1 + cosine) / 2 / a0, b1: -(1 + cosine) / a0, b2: (1 + cosine) / 2 / a0, a1: (-2 * cosine) / a0, a2: (1 - alpha) / a0 }
}

/** A second-order low pass; Butterworth for q = 0.7071. @see the same cookbook. */
export function lowPass(cutoffHz: number, q = Math.SQRT1_2): BiquadCoefficients {
  const w0 = (2 * Math.PI * cutoffHz) / SAMPLE_RATE_HZ
  const alpha = Math.sin(w0) / (2 * q)
  const cosine = Math.cos(w0)
  const a0 = 1 + alpha
  return { b0: (1 - cosine) / 2 / a0, b1: (1 - cosine) / a0, b2: (1 - cosine) / 2 / a0, a1: (-2 * cosine) / a0, a2: (1 - alpha) / a0 }
}

/** A high shelf of slope 0.7 (gentle): 0 dB below the corner, `gainDecibels` above, half of it at the corner. @see the same cookbook. */
export function highShelf(cornerHz: number, gainDecibels: number): BiquadCoefficients {
  const slope = 0.7
  const a = 10 ** (gainDecibels / 40)
  const w0 = (2 * Math.PI * cornerHz) / SAMPLE_RATE_HZ
  const cosine = Math.cos(w0)
  const alpha = (Math.sin(w0) / 2) * Math.sqrt((a + 1 / a) * (1 / slope - 1) + 2)
  const root = 2 * Math.sqrt(a) * alpha
  const a0 = a + 1 - (a - 1) * cosine + root
  return {
    b0: (a * (a + 1 + (a - 1) * cosine + root)) / a0,
    b1: (-2 * a * (a - 1 + (a + 1) * cosine)) / a0,
    b2: (a * (a + 1 + (a - 1) * cosine - root)) / a0,
    a1: (2 * (a - 1 - (a + 1) * cosine)) / a0,
    a2: (a + 1 - (a - 1) * cosine - root) / a0,
  }
}

/** Gain in decibels at a frequency. */
export function responseDecibels({ b0, b1, b2, a1, a2 }: BiquadCoefficients, hz: number): number {
  const w = (2 * Math.PI * hz) / SAMPLE_RATE_HZ
  const top = (b0 + b1 * Math.cos(w) + b2 * Math.cos(2 * w)) ** 2 + (b1 * Math.sin(w) + b2 * Math.sin(2 * w)) ** 2
  const bottom = (1 + a1 * Math.cos(w) + a2 * Math.cos(2 * w)) ** 2 + (a1 * Math.sin(w) + a2 * Math.sin(2 * w)) ** 2
  return 10 * Math.log10(top / bottom)
}

/** A change of settings is spread over this many blocks. */
const GLIDE_BLOCKS = 4

/** One filter over two channels in place (transposed direct form II). */
export class StereoBiquad {
  private readonly state = new Float64Array(4)
  private readonly now: Float64Array
  private readonly step = new Float64Array(5)
  private glideBlocks = 0
  private target: BiquadCoefficients

  constructor(coefficients: BiquadCoefficients) {
    this.target = coefficients
    this.now = Float64Array.of(coefficients.b0, coefficients.b1, coefficients.b2, coefficients.a1, coefficients.a2)
  }

  /** Glides to other settings over the next blocks. */
  set(coefficients: BiquadCoefficients): void {
    this.target = coefficients
    const { b0, b1, b2, a1, a2 } = coefficients
    const wanted = [b0, b1, b2, a1, a2]
    for (let i = 0; i < 5; i++) this.step[i] = (wanted[i] - this.now[i]) / GLIDE_BLOCKS
    this.glideBlocks = GLIDE_BLOCKS
  }

  reset(): void {
    this.state.fill(0)
    this.glideBlocks = 0
    const { b0, b1, b2, a1, a2 } = this.target
    this.now[0] = b0
    this.now[1] = b1
    this.now[2] = b2
    this.now[3] = a1
    this.now[4] = a2
  }

  process(left: Float32Array, right: Float32Array): void {
    const { now, state } = this
    if (this.glideBlocks > 0) {
      this.glideBlocks--
      for (let i = 0; i < 5; i++) now[i] += this.step[i]
    }
    const [b0, b1, b2, a1, a2] = [now[0], now[1], now[2], now[3], now[4]]
    let [l1, l2, r1, r2] = [state[0], state[1], state[2], state[3]]
    for (let i = 0; i < left.length; i++) {
      const x = left[i]
      const y = b0 * x + l1
      l1 = b1 * x - a1 * y + l2
      l2 = b2 * x - a2 * y
      left[i] = y
      const u = right[i]
      const v = b0 * u + r1
      r1 = b1 * u - a1 * v + r2
      r2 = b2 * u - a2 * v
      right[i] = v
    }
    // Below -300 dB the state is nothing but slow denormal numbers.
    state[0] = Math.abs(l1) < 1e-15 ? 0 : l1
    state[1] = Math.abs(l2) < 1e-15 ? 0 : l2
    state[2] = Math.abs(r1) < 1e-15 ? 0 : r1
    state[3] = Math.abs(r2) < 1e-15 ? 0 : r2
  }
}
