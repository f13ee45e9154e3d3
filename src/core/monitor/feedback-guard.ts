/** Notices a howl as it begins: one narrow tone that grows while loudspeaker and microphone hear each other. */
import { rmsOf } from '../audio/decibels'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { Spectrum } from '../audio/spectrum'

const SIZE = 2_048
/** A look every 10.7 ms. */
const HOP = 512
/** Share of the power round the strongest frequency: within 47 Hz, or a little more within 140 Hz where several modes of a loop grow together. */
const NARROW = { bins: 2, share: 0.9 }
const WIDER = { bins: 6, share: 0.95 }
/** Looks over which the tone must have stood still and grown. */
const LOOKS = 12
const LEAST_GROWTH_DECIBELS = 3
/** Of a tone as pure as only a howl (or a whistle) is, less is enough. */
const LEAST_PURE_GROWTH_DECIBELS = 0.8
/** A howl grows on and on; a note that sets in grows less and less. */
const LEAST_STEADINESS = 0.7
const LEAST_LEVEL = 10 ** (-45 / 20)
const PURE_SHARE = 0.97
/** A fast howl is at the ceiling before it can be seen to grow, and stays pressed against it as no voice does: root mean square. */
const PRESSED_LEVEL = 10 ** (-9 / 20)

/**
 * Fed with what is about to be sent back to the ears, block by block. A howl grows by the loop's gain with every trip through air and machine;
 * a voice that swells has harmonics, and a steady whistle does not grow.
 */
export class FeedbackGuard {
  private readonly spectrum = new Spectrum(SIZE)
  private readonly recent = new Float32Array(SIZE)
  private filled = 0
  private readonly levels: number[] = []
  private pressedLooks = 0
  private bin = -1

  reset(): void {
    this.recent.fill(0)
    this.filled = 0
    this.levels.length = 0
    this.pressedLooks = 0
    this.bin = -1
  }

  /** True once a howl is certain: within 300 ms of its first being heard. */
  process(block: Float32Array): boolean {
    this.recent.copyWithin(0, block.length)
    this.recent.set(block, SIZE - block.length)
    this.filled += block.length
    if (this.filled < HOP) return false
    this.filled = 0
    return this.look()
  }

  private look(): boolean {
    this.pressedLooks = rmsOf(this.recent, SIZE - HOP) > PRESSED_LEVEL ? this.pressedLooks + 1 : 0
    return this.pressedLooks >= LOOKS || this.growsNarrow()
  }

  private growsNarrow(): boolean {
    const magnitudes = this.spectrum.read(this.recent, 0)
    let best = 2
    let total = 1e-12
    for (let bin = 2; bin < magnitudes.length - 2; bin++) {
      total += magnitudes[bin] ** 2
      if (magnitudes[bin] > magnitudes[best]) best = bin
    }
    const level = magnitudes[best]
    const narrow = powerNear(magnitudes, best, NARROW.bins) / total
    const tonal = narrow >= NARROW.share || powerNear(magnitudes, best, WIDER.bins) / total >= WIDER.share
    if (!tonal || level < LEAST_LEVEL || best < (100 * SIZE) / SAMPLE_RATE_HZ) {
      this.levels.length = 0
      this.bin = best
      return false
    }
    if (Math.abs(best - this.bin) > 3) this.levels.length = 0
    this.bin = best
    this.levels.push(20 * Math.log10(level))
    if (this.levels.length > LOOKS) this.levels.shift()
    if (this.levels.length < LOOKS) return false
    const half = LOOKS / 2
    const early = this.levels[half - 1] - this.levels[0]
    const late = this.levels[LOOKS - 1] - this.levels[half]
    const leastGrowth = narrow >= PURE_SHARE ? LEAST_PURE_GROWTH_DECIBELS : LEAST_GROWTH_DECIBELS
    return early + late >= leastGrowth && late >= LEAST_STEADINESS * early && early >= LEAST_STEADINESS * late
  }
}

function powerNear(magnitudes: Float32Array, bin: number, reach: number): number {
  let power = 0
  for (let at = Math.max(0, bin - reach); at <= Math.min(magnitudes.length - 1, bin + reach); at++) power += magnitudes[at] ** 2
  return power
}
