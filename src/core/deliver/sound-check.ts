/** What is told of a finished sound beside its loudness: clipped samples, an offset, what is lost on one loudspeaker. */
import type { Planar } from '../audio/frames'

export interface SoundFacts {
  /** Samples at or over full scale. */
  clippedSamples: number
  /** The larger mean of the two channels, as a part of full scale. */
  dcOffset: number
  /** What one loudspeaker loses of both: 0 dB for a sound in the middle, -3 for two that have nothing to do with each other. */
  monoLossDecibels: number
  /** How alike the two channels are: 1 the same, 0 nothing to do with each other, -1 opposite. */
  correlation: number
}

const FULL_SCALE = 1
const MOST_LOSS_DECIBELS = -60

/** Gathers them piece by piece, of two channels. */
export class SoundCheck {
  private clipped = 0
  private frames = 0
  private readonly sums = [0, 0]
  private readonly powers = [0, 0]
  private product = 0

  push([left, right]: Planar): void {
    let [sumLeft, sumRight, powerLeft, powerRight, product] = [0, 0, 0, 0, 0]
    for (let i = 0; i < left.length; i++) {
      const [l, r] = [left[i], right[i]]
      if (Math.abs(l) >= FULL_SCALE) this.clipped++
      if (Math.abs(r) >= FULL_SCALE) this.clipped++
      sumLeft += l
      sumRight += r
      powerLeft += l * l
      powerRight += r * r
      product += l * r
    }
    this.frames += left.length
    this.sums[0] += sumLeft
    this.sums[1] += sumRight
    this.powers[0] += powerLeft
    this.powers[1] += powerRight
    this.product += product
  }

  read(): SoundFacts {
    const { frames, sums, powers, product } = this
    const both = powers[0] + powers[1]
    return {
      clippedSamples: this.clipped,
      dcOffset: frames > 0 ? Math.max(...sums.map(sum => Math.abs(sum) / frames)) : 0,
      monoLossDecibels: both > 0 ? Math.max(MOST_LOSS_DECIBELS, 10 * Math.log10(Math.max(0, both + 2 * product) / (2 * both))) : 0,
      correlation: powers[0] > 0 && powers[1] > 0 ? product / Math.sqrt(powers[0] * powers[1]) : 1,
    }
  }
}
