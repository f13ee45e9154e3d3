/** A lane as it is played: from block to block without a step, also where its points change. */
import { BLOCK_FRAMES } from '../audio/frames'
import { SWAP_BLOCKS } from '../effects/glide'
import { GAIN_RANGE_DECIBELS } from '../song/fields'
import { laneGainAt, type Lane } from './lane'

export class Ride {
  /** Factors at the start and at the end of the current block. */
  from = 1
  to = 1
  private former: Lane = []
  private swapBlocks = 0
  /** Where the next block begins if playing goes straight on. */
  private nextFrame = Number.NaN

  constructor(private lane: Lane) {}

  set(lane: Lane): void {
    if (lane === this.lane || isSameLane(lane, this.lane)) return
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
    this.from = frame === this.nextFrame ? this.to : this.gainAt(frame)
    if (this.swapBlocks > 0) this.swapBlocks--
    this.to = this.gainAt(endFrame)
    this.nextFrame = endFrame
  }

  /** By so much from one frame to the next. */
  get step(): number {
    return (this.to - this.from) / BLOCK_FRAMES
  }

  private gainAt(frame: number): number {
    const gain = laneGainAt(this.lane, frame, GAIN_RANGE_DECIBELS.min)
    if (this.swapBlocks === 0) return gain
    const former = laneGainAt(this.former, frame, GAIN_RANGE_DECIBELS.min)
    return former + ((SWAP_BLOCKS - this.swapBlocks) / SWAP_BLOCKS) * (gain - former)
  }
}

function isSameLane(a: Lane, b: Lane): boolean {
  return a.length === b.length && a.every((point, i) => point.frame === b[i].frame && point.gainDecibels === b[i].gainDecibels)
}
