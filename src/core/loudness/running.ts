/** Loudness as it goes: of the last 0.4 s, of the last 3 s, and of all since it began; block by block, without allocation. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { ABSOLUTE_GATE_LUFS, KWeighting, RELATIVE_GATE_LU, toLufs } from './loudness'

const blocksIn = (seconds: number) => Math.round((seconds * SAMPLE_RATE_HZ) / BLOCK_FRAMES)
const MOMENTARY_BLOCKS = blocksIn(0.4)
const SHORT_BLOCKS = blocksIn(3)
/** The gated mean takes in a moment of 0.4 s every 0.1 s. */
const STEP_BLOCKS = blocksIn(0.1)
/** Moments are counted by tenths of a loudness unit, from the absolute gate up. */
const BINS = 900

/** @see ITU-R BS.1770-4 for the weighting and the gates; EBU Tech 3341 for what is momentary and short-term. */
export class RunningLoudness {
  private readonly filters = [new KWeighting(), new KWeighting()] as const
  private readonly powers = new Float64Array(SHORT_BLOCKS)
  private readonly middles = new Float64Array(SHORT_BLOCKS)
  private readonly boths = new Float64Array(SHORT_BLOCKS)
  private at = 0
  private sinceStep = 0
  private blocks = 0
  private readonly counts = new Float64Array(BINS)
  private readonly sums = new Float64Array(BINS)

  push(left: Float32Array, right: Float32Array): void {
    const { filters, at } = this
    this.powers[at] = (filters[0].power(left, 0, BLOCK_FRAMES) + filters[1].power(right, 0, BLOCK_FRAMES)) / BLOCK_FRAMES
    let middle = 0
    let both = 0
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const m = left[i] + right[i]
      middle += m * m
      both += left[i] * left[i] + right[i] * right[i]
    }
    this.middles[at] = middle
    this.boths[at] = both
    this.at = (at + 1) % SHORT_BLOCKS
    this.blocks++
    if (++this.sinceStep < STEP_BLOCKS || this.blocks < MOMENTARY_BLOCKS) return
    this.sinceStep = 0
    const power = this.meanOf(MOMENTARY_BLOCKS)
    const bin = Math.floor(10 * (toLufs(power) - ABSOLUTE_GATE_LUFS))
    if (bin < 0) return
    this.counts[Math.min(BINS - 1, bin)]++
    this.sums[Math.min(BINS - 1, bin)] += power
  }

  reset(): void {
    this.powers.fill(0)
    this.middles.fill(0)
    this.boths.fill(0)
    this.counts.fill(0)
    this.sums.fill(0)
    this.blocks = this.sinceStep = 0
  }

  get momentaryLufs(): number {
    return toLufs(this.meanOf(MOMENTARY_BLOCKS))
  }

  get shortTermLufs(): number {
    return toLufs(this.meanOf(SHORT_BLOCKS))
  }

  /** Since it was made or reset. */
  get integratedLufs(): number {
    const { counts, sums } = this
    const mean = (from: number) => {
      let count = 0
      let sum = 0
      for (let bin = Math.max(0, from); bin < BINS; bin++) {
        count += counts[bin]
        sum += sums[bin]
      }
      return count > 0 ? toLufs(sum / count) : -Infinity
    }
    const all = mean(0)
    return all === -Infinity ? all : mean(Math.ceil(10 * (all + RELATIVE_GATE_LU - ABSOLUTE_GATE_LUFS)))
  }

  /** What the last 3 s lose on one loudspeaker: 0 dB for a sound in the middle. */
  get monoLossDecibels(): number {
    let middle = 0
    let both = 0
    for (let i = 0; i < SHORT_BLOCKS; i++) {
      middle += this.middles[i]
      both += this.boths[i]
    }
    return both > 0 ? Math.max(-60, 10 * Math.log10(middle / (2 * both) + 1e-12)) : 0
  }

  /** Of so many blocks, the last ones; those that were not there yet were silent. */
  private meanOf(count: number): number {
    let sum = 0
    for (let i = 1; i <= count; i++) sum += this.powers[(this.at - i + SHORT_BLOCKS) % SHORT_BLOCKS]
    return sum / count
  }
}
