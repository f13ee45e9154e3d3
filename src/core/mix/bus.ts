/** What several voices go through together. */
import { BLOCK_FRAMES } from '../audio/frames'
import { addRamp } from '../audio/ramp'
import { Chain } from '../effects/chain'
import type { Follower, ResetOptions } from '../effects/effect'
import { Glide } from '../effects/glide'
import type { BusPlan } from './plan'

/** Two channels, one block of them. */
export type Pair = readonly [left: Float32Array, right: Float32Array]

export function makePair(): Pair {
  return [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)]
}

export type BusSettings = Omit<BusPlan, 'id' | 'into'>

/** A chain, what spaces answer, a level. With a part: what some of the voices have their part in of what comes out, for stems. */
export class Bus {
  readonly all = makePair()
  /** Null where no part is asked for. */
  readonly part: Pair | null
  readonly chain: Chain
  private readonly follower: Follower | null
  private readonly gain: Glide
  /** Of what comes out of the chain. */
  private readonly dry: Glide
  /** Of the last block, linear. */
  peak = 0
  /** Whether something went into it in this block. */
  private isFed = false

  /** @param into Null: the output. */
  constructor(
    { steps, gain, dry }: BusSettings,
    readonly into: Bus | null,
    hasPart: boolean,
  ) {
    this.chain = new Chain(steps)
    this.gain = new Glide(gain)
    this.dry = new Glide(dry)
    this.part = hasPart ? makePair() : null
    this.follower = hasPart ? this.chain.makeFollower() : null
  }

  set({ steps, gain, dry }: BusSettings): void {
    this.chain.set(steps)
    this.gain.set(gain)
    this.dry.set(dry)
  }

  setLevels(dry: number, gain: number): void {
    this.dry.set(dry)
    this.gain.set(gain)
  }

  /** Something goes into it in this block. */
  feed(): void {
    this.isFed = true
  }

  /** Nothing goes into it, and nothing rings any more. */
  get isResting(): boolean {
    return !this.isFed && this.chain.isResting
  }

  /** Whether it does nothing to what goes through. */
  get isIdle(): boolean {
    return this.chain.isEmpty && this.gain.from === 1 && this.gain.to === 1
  }

  reset(options: ResetOptions): void {
    this.chain.reset(options)
    this.follower?.reset()
    this.gain.settle()
    this.dry.settle()
  }

  /** Empty, for the next block. */
  begin(): void {
    clear(this.all)
    if (this.part) clear(this.part)
    this.gain.advance()
    this.dry.advance()
    this.isFed = false
  }

  runChain(): void {
    this.chain.process(this.all[0], this.all[1], !this.isFed)
    if (this.part) this.follower?.process(this.part[0], this.part[1])
    multiply(this.all, this.dry)
    if (this.part) multiply(this.part, this.dry)
  }

  applyGain(): void {
    multiply(this.all, this.gain)
    if (this.part) multiply(this.part, this.gain)
    this.peak = peakOfPair(this.all)
  }

  addInto(other: Bus): void {
    other.feed()
    addPair(other.all, this.all)
    if (this.part && other.part) addPair(other.part, this.part)
  }
}

export function clear(pair: Pair): void {
  pair[0].fill(0)
  pair[1].fill(0)
}

function multiply(pair: Pair, gain: Glide): void {
  if (gain.from === 1 && gain.to === 1) return
  for (const side of pair) for (let i = 0; i < BLOCK_FRAMES; i++) side[i] *= gain.at(i)
}

export function peakOfPair([left, right]: Pair): number {
  let peak = 0
  for (let i = 0; i < BLOCK_FRAMES; i++) {
    const level = Math.max(Math.abs(left[i]), Math.abs(right[i]))
    if (level > peak) peak = level
  }
  return peak
}

export function addPair(into: Pair, from: Pair): void {
  addScaled(into, from, 1, 1)
}

/** At a level that moves in a straight line over the block. */
export function addScaled(into: Pair, from: Pair, gain: number, endGain: number): void {
  addRamp(into[0], from[0], gain, endGain)
  addRamp(into[1], from[1], gain, endGain)
}
