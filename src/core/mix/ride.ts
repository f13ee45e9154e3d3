/** A lane as it is played: a factor that goes from block to block without a step, also where its points change. */
import { BLOCK_FRAMES } from '../audio/frames'
import { SWAP_BLOCKS } from '../effects/glide'
import { GAIN_RANGE_DECIBELS } from '../song/fields'
import { isSameLane, laneGainAt, NO_LANE, type Lane } from './lane'

export class Ride {
  /** Factors at the start and at the end of the current block. */
  from = 1
  to = 1
  private former = NO_LANE
  private swapBlocks = 0
  /** Where the next block begins if playing goes straight on. */
  private nextFrame = Number.NaN

  /** @param factorAt What a lane is at a frame; 1 without points. */
  constructor(
    private lane: Lane,
    private readonly factorAt: (lane: Lane, frame: number) => number = gainAt,
  ) {}

  set(lane: Lane): void {
    if (isSameLane(lane, this.lane)) return
    // A swap that is going on begins anew from the nearer of its ends.
    if (this.swapBlocks <= SWAP_BLOCKS / 2) this.former = this.lane
    this.lane = lane
    this.swapBlocks = SWAP_BLOCKS
  }

  settle(): void {
    this.swapBlocks = 0
    this.nextFrame = Number.NaN
  }

  /** @param frame Where the block begins in the song. @param endFrame Where it ends: elsewhere, if a loop turns in it. */
  advance(frame: number, endFrame: number): void {
    if (this.lane.length === 0 && this.swapBlocks === 0) {
      this.from = this.to = 1
      this.nextFrame = endFrame
      return
    }
    this.from = frame === this.nextFrame ? this.to : this.now(frame)
    if (this.swapBlocks > 0) this.swapBlocks--
    this.to = this.now(endFrame)
    this.nextFrame = endFrame
  }

  /** Whether it leaves the block as it is. */
  get isIdle(): boolean {
    return this.from === 1 && this.to === 1
  }

  at(i: number): number {
    return this.from + ((this.to - this.from) / BLOCK_FRAMES) * i
  }

  private now(frame: number): number {
    const factor = this.factorAt(this.lane, frame)
    if (this.swapBlocks === 0) return factor
    const former = this.factorAt(this.former, frame)
    return former + ((SWAP_BLOCKS - this.swapBlocks) / SWAP_BLOCKS) * (factor - former)
  }
}

function gainAt(lane: Lane, frame: number): number {
  return laneGainAt(lane, frame, GAIN_RANGE_DECIBELS.min)
}
