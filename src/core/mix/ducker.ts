/** Holds an answer down while the voices that go into it sound, so that it fills their gaps. */
import { decibelsToGain } from '../audio/decibels'
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import type { SpacePlan } from './plan'

/** From so loud on a voice holds the answer down altogether; softer ones by a share, down to where it is free. In dBFS, of peaks. */
export const DUCKED_ALTOGETHER_DBFS = -36
export const DUCKED_NOT_DBFS = -54
/** A word is over before its answer could be heard: it is held down at once. */
const USUAL_ATTACK_SECONDS = 0.005

const blocks = (seconds: number) => Math.exp(-BLOCK_FRAMES / (seconds * SAMPLE_RATE_HZ))

/** Block by block: a factor at the start and at the end of each, and in between a straight line. */
export class Ducker {
  from = 1
  to = 1
  private peak = 0
  /** How much of the amount, 0..1, at the end of the block and at its start. */
  share = 0
  formerShare = 0
  private readonly attack: number
  private release = 0

  constructor(
    private duck: SpacePlan['duck'],
    attackSeconds = USUAL_ATTACK_SECONDS,
  ) {
    this.attack = blocks(attackSeconds)
    this.set(duck)
  }

  set(duck: SpacePlan['duck']): void {
    this.duck = duck
    this.release = blocks(duck.releaseSeconds)
  }

  reset(): void {
    this.peak = this.share = this.formerShare = 0
    this.from = this.to = 1
  }

  /** A voice in the block that comes next; of several, the loudest counts. */
  hear(left: Float32Array | Float64Array, right: Float32Array | Float64Array): void {
    if (this.duck.decibels === 0) return
    let { peak } = this
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const l = Math.abs(left[i])
      const r = Math.abs(right[i])
      if (l > peak) peak = l
      if (r > peak) peak = r
    }
    this.peak = peak
  }

  advance(): void {
    this.from = this.to
    this.formerShare = this.share
    if (this.duck.decibels === 0 && this.share === 0) {
      this.to = 1
      return
    }
    const level = this.peak > 0 ? 20 * Math.log10(this.peak) : -Infinity
    this.peak = 0
    const wanted = Math.max(0, Math.min(1, (level - DUCKED_NOT_DBFS) / (DUCKED_ALTOGETHER_DBFS - DUCKED_NOT_DBFS)))
    const pole = wanted > this.share ? this.attack : this.release
    const share = wanted + pole * (this.share - wanted)
    this.share = share < 1e-6 ? 0 : share
    this.to = decibelsToGain(-this.duck.decibels * this.share)
  }
}
