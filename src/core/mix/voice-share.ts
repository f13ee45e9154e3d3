/** How much of a voice sounds at a moment: what gives way to voices gives way by this share. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'

/** From so loud on a voice is there altogether; softer ones by a share, down to where there is none. In dBFS, of peaks. */
export const WHOLE_VOICE_DBFS = -36
export const NO_VOICE_DBFS = -54

const poleOf = (seconds: number) => Math.exp(-BLOCK_FRAMES / (seconds * SAMPLE_RATE_HZ))

/** Block by block, 0..1: at the start and at the end of each, and in between a straight line. */
export class VoiceShare {
  from = 0
  to = 0
  private peak = 0
  private readonly attack: number
  private release = 0

  /** Both are time constants. */
  constructor(attackSeconds: number, releaseSeconds: number) {
    this.attack = poleOf(attackSeconds)
    this.set(releaseSeconds)
  }

  set(releaseSeconds: number): void {
    this.release = poleOf(releaseSeconds)
  }

  reset(): void {
    this.from = this.to = this.peak = 0
  }

  /** A voice in the block that comes next, by its peak; of several, the loudest counts. */
  hear(peak: number): void {
    if (peak > this.peak) this.peak = peak
  }

  advance(): void {
    this.from = this.to
    const level = this.peak > 0 ? 20 * Math.log10(this.peak) : -Infinity
    this.peak = 0
    const wanted = Math.max(0, Math.min(1, (level - NO_VOICE_DBFS) / (WHOLE_VOICE_DBFS - NO_VOICE_DBFS)))
    const pole = wanted > this.to ? this.attack : this.release
    const share = wanted + pole * (this.to - wanted)
    this.to = share < 1e-6 ? 0 : share
  }
}
