/** Both sides, held back by so many frames; where that changes, faded over as a reader fades from one lead to another. */
import { BLOCK_FRAMES } from '../audio/frames'
import { DelayLine } from '../effects/delay-line'
import { SWAP_BLOCKS } from '../effects/glide'

/** How long something is held back, and was before a swap of which so much is done. */
export interface Holding {
  frames: number
  formerFrames: number
  swapped: number
}

export class HeldBack {
  private readonly lines: readonly [DelayLine, DelayLine]
  private readonly scratch = new Float32Array(BLOCK_FRAMES)

  constructor(mostFrames: number) {
    this.lines = [new DelayLine(mostFrames), new DelayLine(mostFrames)]
  }

  reset(): void {
    for (const line of this.lines) line.reset()
  }

  /** In place, a block of each side. */
  process(left: Float32Array, right: Float32Array, { frames, formerFrames, swapped }: Holding): void {
    this.side(0, left, frames, formerFrames, swapped)
    this.side(1, right, frames, formerFrames, swapped)
  }

  private side(side: 0 | 1, block: Float32Array, frames: number, formerFrames: number, swapped: number): void {
    const { scratch } = this
    const line = this.lines[side]
    line.write(block)
    line.read(block, frames + BLOCK_FRAMES)
    if (formerFrames === frames) return
    line.read(scratch, formerFrames + BLOCK_FRAMES)
    for (let i = 0; i < BLOCK_FRAMES; i++) block[i] = scratch[i] + (swapped + i / (BLOCK_FRAMES * SWAP_BLOCKS)) * (block[i] - scratch[i])
  }
}
