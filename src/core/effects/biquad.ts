/** Second-order filters for two channels, whose settings can change without a click. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ, type Mono } from '../audio/frames'

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

/** A band pass, 0 dB in its middle. @see the same cookbook. */
export function bandPass(middleHz: number, q: number): BiquadCoefficients {
  const w0 = (2 * Math.PI * middleHz) / SAMPLE_RATE_HZ
  const alpha = Math.sin(w0) / (2 * q)
  const a0 = 1 + alpha
  return { b0: alpha / a0, b1: 0, b2: -alpha / a0, a1: (-2 * Math.cos(w0)) / a0, a2: (1 - alpha) / a0 }
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

/** A low shelf of slope 0.7: `gainDecibels` below the corner, half of it at the corner, 0 dB above. @see the same cookbook. */
export function lowShelf(cornerHz: number, gainDecibels: number): BiquadCoefficients {
  // A shelf above the corner that does the contrary, and all of it raised.
  const { b0, b1, b2, a1, a2 } = highShelf(cornerHz, -gainDecibels)
  const gain = 10 ** (gainDecibels / 20)
  return { b0: b0 * gain, b1: b1 * gain, b2: b2 * gain, a1, a2 }
}

/** A bell: `gainDecibels` at its centre, 0 dB far from it; a bell down undoes the bell up. @see the same cookbook, peakingEQ. */
export function bell(centreHz: number, gainDecibels: number, q: number): BiquadCoefficients {
  const a = 10 ** (gainDecibels / 40)
  const w0 = (2 * Math.PI * centreHz) / SAMPLE_RATE_HZ
  const alpha = Math.sin(w0) / (2 * q)
  const middle = -2 * Math.cos(w0)
  const a0 = 1 + alpha / a
  return { b0: (1 + alpha * a) / a0, b1: middle / a0, b2: (1 - alpha * a) / a0, a1: middle / a0, a2: (1 - alpha / a) / a0 }
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

/**
 * One filter over two channels in place, whose settings glide sample by sample. It is computed as two integrators in a loop: what they
 * hold means the same whatever the settings are, so that no change of them is heard as a jump.
 * @see A. Simper, Solving the continuous SVF equations using trapezoidal integration and equivalent currents, Cytomic (2013).
 */
export class StereoBiquad {
  private readonly state = new Float64Array(4)
  /** Integrator gain, damping, and how much of the input, the band pass and the low pass comes out. */
  private readonly now: Float64Array
  private readonly target: Float64Array
  private readonly step = new Float64Array(5)
  private glideFrames = 0

  constructor(coefficients: BiquadCoefficients) {
    this.target = integratorForm(coefficients)
    this.now = this.target.slice()
  }

  /** Glides to other settings over the next blocks. */
  set(coefficients: BiquadCoefficients): void {
    this.target.set(integratorForm(coefficients))
    this.glideFrames = GLIDE_BLOCKS * BLOCK_FRAMES
    for (let i = 0; i < 5; i++) this.step[i] = (this.target[i] - this.now[i]) / this.glideFrames
  }

  reset(): void {
    this.state.fill(0)
    this.glideFrames = 0
    this.now.set(this.target)
  }

  process(left: Float32Array, right: Float32Array): void {
    if (this.glideFrames > 0) this.processGliding(left, right)
    else if (left === right) this.processOne(left)
    else this.processPair(left, right)
    // Below -300 dB the state is nothing but slow denormal numbers.
    const { state } = this
    for (let i = 0; i < 4; i++) if (Math.abs(state[i]) < 1e-15) state[i] = 0
  }

  /** The two that follow are the same filter, apart so that no sample is asked whether it has a partner. */
  private processOne(block: Float32Array): void {
    const { now, state } = this
    const [g, k, m0, m1, m2] = [now[0], now[1], now[2], now[3], now[4]]
    const a1 = 1 / (1 + g * (g + k))
    const a2 = g * a1
    const a3 = g * a2
    let l1 = state[0]
    let l2 = state[1]
    for (let i = 0; i < block.length; i++) {
      const x = block[i]
      const xHigh = x - l2
      const xBand = a1 * l1 + a2 * xHigh
      const xLow = l2 + a2 * l1 + a3 * xHigh
      l1 = 2 * xBand - l1
      l2 = 2 * xLow - l2
      block[i] = m0 * x + m1 * xBand + m2 * xLow
    }
    state[0] = l1
    state[1] = l2
  }

  private processPair(left: Float32Array, right: Float32Array): void {
    const { now, state } = this
    const [g, k, m0, m1, m2] = [now[0], now[1], now[2], now[3], now[4]]
    const a1 = 1 / (1 + g * (g + k))
    const a2 = g * a1
    const a3 = g * a2
    let l1 = state[0]
    let l2 = state[1]
    let r1 = state[2]
    let r2 = state[3]
    for (let i = 0; i < left.length; i++) {
      const x = left[i]
      const xHigh = x - l2
      const xBand = a1 * l1 + a2 * xHigh
      const xLow = l2 + a2 * l1 + a3 * xHigh
      l1 = 2 * xBand - l1
      l2 = 2 * xLow - l2
      left[i] = m0 * x + m1 * xBand + m2 * xLow
      const y = right[i]
      const yHigh = y - r2
      const yBand = a1 * r1 + a2 * yHigh
      const yLow = r2 + a2 * r1 + a3 * yHigh
      r1 = 2 * yBand - r1
      r2 = 2 * yLow - r2
      right[i] = m0 * y + m1 * yBand + m2 * yLow
    }
    state[0] = l1
    state[1] = l2
    state[2] = r1
    state[3] = r2
  }

  /** Sample by sample with other settings; rarely, so that it may take its time. */
  private processGliding(left: Float32Array, right: Float32Array): void {
    const { now, state } = this
    const sides = left === right ? 1 : 2
    for (let i = 0; i < left.length; i++) {
      if (this.glideFrames > 0) this.glide()
      const [g, k, m0, m1, m2] = [now[0], now[1], now[2], now[3], now[4]]
      const a1 = 1 / (1 + g * (g + k))
      const a2 = g * a1
      const a3 = g * a2
      for (let side = 0; side < sides; side++) {
        const block = side === 0 ? left : right
        const [s1, s2] = [state[2 * side], state[2 * side + 1]]
        const x = block[i]
        const high = x - s2
        const band = a1 * s1 + a2 * high
        const low = s2 + a2 * s1 + a3 * high
        state[2 * side] = 2 * band - s1
        state[2 * side + 1] = 2 * low - s2
        block[i] = m0 * x + m1 * band + m2 * low
      }
    }
  }

  private glide(): void {
    const { now, step, target } = this
    if (--this.glideFrames === 0) now.set(target)
    else for (let i = 0; i < 5; i++) now[i] += step[i]
  }
}

/** The same filter as two trapezoidal integrators: both forms have one transfer function, term by term. */
function integratorForm({ b0, b1, b2, a1, a2 }: BiquadCoefficients): Float64Array {
  const nyquist = 1 - a1 + a2
  const a0 = 4 / nyquist
  const g = Math.sqrt((1 + a1 + a2) / nyquist)
  const k = (a0 * (1 - a2)) / (2 * g)
  const m0 = (b0 + b2 - b1) / nyquist
  const m1 = ((b0 - b2 - m0 * (1 - a2)) * a0) / (2 * g)
  const m2 = ((b1 - m0 * a1) * a0) / (2 * g * g)
  return Float64Array.of(g, k, m0, m1, m2)
}

/**
 * One channel through filters, one after the other; a new sound. Nothing glides here: in the transposed direct form a sample waits for half as
 * much, and two filters are computed side by side, in doubles from end to end.
 */
export function filtered(voice: Float32Array, ...filters: readonly BiquadCoefficients[]): Mono {
  const through = new Float32Array(voice.length)
  for (let i = 0; i < filters.length; i += 2) filterTwo(i === 0 ? voice : through, through, filters[i], filters[i + 1] ?? PASS)
  return through
}

const PASS: BiquadCoefficients = { b0: 1, b1: 0, b2: 0, a1: 0, a2: 0 }

/** The target may be the source. */
function filterTwo(source: Float32Array, target: Float32Array, first: BiquadCoefficients, second: BiquadCoefficients): void {
  const { b0, b1, b2, a1, a2 } = first
  const { b0: d0, b1: d1, b2: d2, a1: c1, a2: c2 } = second
  let [s1, s2, t1, t2] = [0, 0, 0, 0]
  for (let i = 0; i < source.length; i++) {
    // Far below -300 dB the state is nothing but slow denormal numbers.
    const x = source[i] + TINY
    const y = b0 * x + s1
    s1 = b1 * x + s2 - a1 * y
    s2 = b2 * x - a2 * y
    const z = d0 * y + t1
    t1 = d1 * y + t2 - c1 * z
    t2 = d2 * y - c2 * z
    target[i] = z
  }
}

const TINY = 1e-30
