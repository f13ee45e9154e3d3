/** Loudness and peaks as the broadcast standard measures them. */
import type { Planar } from '../audio/frames'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { TruePeakMeter } from './true-peak'

export interface Loudness {
  /** Integrated loudness in LUFS; -Infinity for silence or anything shorter than 0.4 s. */
  integratedLufs: number
  /** Largest sample in dBFS; -Infinity for silence. */
  samplePeakDbfs: number
  /** Largest value between the samples in dBTP; -Infinity for silence. */
  truePeakDbtp: number
}

/** How loudness moves over a sound. */
export interface LoudnessShape {
  /** The loudest 3 s, in LUFS; -Infinity for silence or anything shorter. */
  shortTermMaxLufs: number
  /** From its softer to its louder stretches, in LU; 0 for anything shorter than 3 s. */
  rangeLu: number
}

const BLOCK_SECONDS = 0.4
const SHORT_SECONDS = 3
const STEP_SECONDS = 0.1
export const ABSOLUTE_GATE_LUFS = -70
export const RELATIVE_GATE_LU = -10

/**
 * Gathers integrated loudness and peaks of one or two channels at 48 kHz, chunk by chunk.
 * @see ITU-R BS.1770-4, annex 1 (K weighting, gating) and annex 2 (true peak).
 */
export class LoudnessMeter {
  private readonly filters: KWeighting[]
  private readonly truePeaks: TruePeakMeter[]
  /** Weighted power of each finished step of 0.1 s. */
  private readonly stepPowers: number[] = []
  private stepPower = 0
  private stepFill = 0
  private peak = 0

  /** @param truePeaks Whether they are asked for: finding them is most of the work. */
  constructor(channels: number, { truePeaks = true }: { truePeaks?: boolean } = {}) {
    this.filters = Array.from({ length: channels }, () => new KWeighting())
    this.truePeaks = Array.from({ length: truePeaks ? channels : 0 }, () => new TruePeakMeter())
  }

  push(planes: readonly Float32Array[]): void {
    const stepFrames = STEP_SECONDS * SAMPLE_RATE_HZ
    const { length } = planes[0]
    for (let from = 0; from < length;) {
      const to = Math.min(length, from + stepFrames - this.stepFill)
      planes.forEach((plane, c) => {
        this.stepPower += this.filters[c].power(plane, from, to)
        for (let i = from; i < to; i++) {
          const level = Math.abs(plane[i])
          if (level > this.peak) this.peak = level
        }
      })
      this.stepFill += to - from
      from = to
      if (this.stepFill === stepFrames) {
        this.stepPowers.push(this.stepPower / stepFrames)
        this.stepPower = this.stepFill = 0
      }
    }
    this.truePeaks.forEach((meter, c) => meter.push(planes[c], this.peak))
  }

  read(): Loudness {
    return {
      integratedLufs: this.integrated(),
      samplePeakDbfs: 20 * Math.log10(this.peak),
      truePeakDbtp: 20 * Math.log10(Math.max(this.peak, ...this.truePeaks.map(meter => meter.peak))),
    }
  }

  /** @see EBU Tech 3341 (short-term) and EBU Tech 3342 (range). */
  readShape(): LoudnessShape {
    const short = this.blocksOf(SHORT_SECONDS)
    return { shortTermMaxLufs: toLufs(short.reduce((most, power) => Math.max(most, power), 0)), rangeLu: rangeOf(short) }
  }

  private integrated(): number {
    return gatedLufs(this.blocksOf(BLOCK_SECONDS))
  }

  /** Powers of stretches of so many seconds, one at every step. */
  private blocksOf(seconds: number): number[] {
    const steps = Math.round(seconds / STEP_SECONDS)
    const blocks: number[] = []
    for (let i = 0; i + steps <= this.stepPowers.length; i++) {
      let power = 0
      for (let k = 0; k < steps; k++) power += this.stepPowers[i + k]
      blocks.push(power / steps)
    }
    return blocks
  }
}

const RANGE_GATE_LU = -20
const RANGE_SHARES = [0.1, 0.95] as const

function rangeOf(short: readonly number[]): number {
  const absolute = short.filter(power => toLufs(power) > ABSOLUTE_GATE_LUFS)
  if (absolute.length === 0) return 0
  const threshold = toLufs(mean(absolute)) + RANGE_GATE_LU
  const gated = absolute
    .map(toLufs)
    .filter(lufs => lufs > threshold)
    .sort((a, b) => a - b)
  const [low, high] = RANGE_SHARES.map(share => gated[Math.round(share * (gated.length - 1))])
  return high - low
}

/** Loudness of blocks by their weighted powers, those left out that are next to silent or far below the others. */
export function gatedLufs(powers: readonly number[]): number {
  const absolute = powers.filter(power => toLufs(power) > ABSOLUTE_GATE_LUFS)
  if (absolute.length === 0) return -Infinity
  const threshold = toLufs(mean(absolute)) + RELATIVE_GATE_LU
  const gated = absolute.filter(power => toLufs(power) > threshold)
  return toLufs(mean(gated))
}

/** The loudness of a whole sound at 48 kHz. A single channel counts as one channel, as the standard has it. */
export function measureLoudness(planes: Planar): Loudness {
  return readWhole(planes, new LoudnessMeter(planes.length))
}

/** As `measureLoudness`, where only the loudness is asked for. */
export function integratedLufs(planes: Planar): number {
  return readWhole(planes, new LoudnessMeter(planes.length, { truePeaks: false })).integratedLufs
}

function readWhole(planes: Planar, meter: LoudnessMeter): Loudness {
  const step = SAMPLE_RATE_HZ
  for (let from = 0; from < planes[0].length; from += step) meter.push(planes.map(plane => plane.subarray(from, from + step)))
  return meter.read()
}

/** Of a weighted power; -Infinity for silence. */
export function toLufs(power: number): number {
  return -0.691 + 10 * Math.log10(power)
}

function mean(values: readonly number[]): number {
  return values.reduce((a, b) => a + b, 0) / values.length
}

/** The standard's two filters at 48 kHz: a high shelf for the head, then a high pass. Coefficients from its tables 1 and 2. */
export class KWeighting {
  private s1 = 0
  private s2 = 0
  private h1 = 0
  private h2 = 0

  /** Filters a stretch and sums its squares. */
  power(plane: Float32Array, from: number, to: number): number {
    let { s1, s2, h1, h2 } = this
    let sum = 0
    for (let i = from; i < to; i++) {
      const x = plane[i]
      const shelf = 1.53512485958697 * x + s1
      s1 = -2.69169618940638 * x + 1.69065929318241 * shelf + s2
      s2 = 1.19839281085285 * x - 0.73248077421585 * shelf
      const high = shelf + h1
      h1 = -2 * shelf + 1.99004745483398 * high + h2
      h2 = shelf - 0.99007225036621 * high
      sum += high * high
    }
    // Below -300 dB the state is nothing but slow denormal numbers.
    this.s1 = Math.abs(s1) < 1e-15 ? 0 : s1
    this.s2 = Math.abs(s2) < 1e-15 ? 0 : s2
    this.h1 = Math.abs(h1) < 1e-15 ? 0 : h1
    this.h2 = Math.abs(h2) < 1e-15 ? 0 : h2
    return sum
  }
}
