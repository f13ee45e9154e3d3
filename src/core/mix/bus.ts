/** What several voices go through together. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../audio/frames'
import { Chain, type Step } from '../effects/chain'
import type { Follower, ResetOptions } from '../effects/effect'
import { Glide } from '../effects/glide'

/** Six times the longest release, 12 s: after so much silence a row of effects is as new. */
export const RESTING_BLOCKS = (12 * SAMPLE_RATE_HZ) / BLOCK_FRAMES

/** Two channels, one block of them. */
export type Pair = readonly [left: Float32Array, right: Float32Array]

export function makePair(): Pair {
  return [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)]
}

/** A chain and then a level. With a part: what some of the voices have their part in of what comes out, for stems. */
export class Bus {
  readonly all = makePair()
  /** Null where no part is asked for. */
  readonly part: Pair | null
  readonly chain: Chain
  private readonly follower: Follower | null
  private readonly gain: Glide
  /** Since something went into it. */
  private silentBlocks = Infinity

  constructor(steps: readonly Step[], gain: number, { hasPart }: { hasPart: boolean }) {
    this.chain = new Chain(steps)
    this.gain = new Glide(gain)
    this.part = hasPart ? makePair() : null
    this.follower = hasPart ? this.chain.makeFollower() : null
  }

  set(steps: readonly Step[], gain: number): void {
    this.chain.set(steps)
    this.gain.set(gain)
    // Nothing to fade from: the next sound meets the new row.
    if (this.isResting) this.chain.reset()
  }

  /** Something goes into it in this block. */
  feed(): void {
    this.silentBlocks = 0
  }

  /** All that rang has died away, and costs nothing until something goes into it. */
  get isResting(): boolean {
    return this.silentBlocks > RESTING_BLOCKS
  }

  /** Whether it does nothing to what goes through. */
  get isIdle(): boolean {
    return this.chain.isEmpty && this.gain.from === 1 && this.gain.to === 1
  }

  reset(options: ResetOptions): void {
    this.chain.reset(options)
    this.follower?.reset()
    this.gain.settle()
    this.silentBlocks = Infinity
  }

  /** Empty, for the next block. */
  begin(): void {
    for (const block of [...this.all, ...(this.part ?? [])]) block.fill(0)
    this.gain.advance()
    this.silentBlocks++
  }

  runChain(): void {
    this.chain.process(...this.all)
    if (this.part) this.follower?.process(...this.part)
  }

  applyGain(): void {
    const { gain } = this
    if (gain.from === 1 && gain.to === 1) return
    for (const block of this.all) for (let i = 0; i < BLOCK_FRAMES; i++) block[i] *= gain.at(i)
    if (this.part) for (const block of this.part) for (let i = 0; i < BLOCK_FRAMES; i++) block[i] *= gain.at(i)
  }

  addInto(other: Bus): void {
    other.feed()
    addPair(other.all, this.all)
    if (this.part && other.part) addPair(other.part, this.part)
  }
}

export function addPair(into: Pair, from: Pair): void {
  for (let side = 0; side < 2; side++) for (let i = 0; i < BLOCK_FRAMES; i++) into[side][i] += from[side][i]
}
