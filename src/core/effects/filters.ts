/** Filters as effects: settings in the words of a mix. */
import { highPass, highShelf, StereoBiquad } from './biquad'
import type { Effect } from './effect'

export interface LowCutSettings {
  cutoffHz: number
}

/** Everything below the cutoff goes, by 12 dB an octave. */
export class LowCut implements Effect<LowCutSettings> {
  readonly latencyFrames = 0
  private readonly filter: StereoBiquad

  constructor({ cutoffHz }: LowCutSettings) {
    this.filter = new StereoBiquad(highPass(cutoffHz))
  }

  set({ cutoffHz }: LowCutSettings): void {
    this.filter.set(highPass(cutoffHz))
  }

  process(left: Float32Array, right: Float32Array): void {
    this.filter.process(left, right)
  }

  reset(): void {
    this.filter.reset()
  }
}

export interface AirSettings {
  cornerHz: number
  gainDecibels: number
}

/** A gentle shelf: what lies above the corner is raised or lowered. */
export class Air implements Effect<AirSettings> {
  readonly latencyFrames = 0
  private readonly filter: StereoBiquad

  constructor({ cornerHz, gainDecibels }: AirSettings) {
    this.filter = new StereoBiquad(highShelf(cornerHz, gainDecibels))
  }

  set({ cornerHz, gainDecibels }: AirSettings): void {
    this.filter.set(highShelf(cornerHz, gainDecibels))
  }

  process(left: Float32Array, right: Float32Array): void {
    this.filter.process(left, right)
  }

  reset(): void {
    this.filter.reset()
  }
}
