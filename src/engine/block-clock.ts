/** The clock's frame of each block that a processor is called for. */
import { BLOCK_FRAMES } from '../core/audio/frames'

/**
 * `currentFrame` alone does not say it: where another thread holds the graph's lock at the edge of a block, the browser plays the block all the
 * same and leaves `currentFrame` as it was. To be told each block, so that such a one counts; blocks for which the processor was not called
 * are passed over.
 */
export class BlockClock {
  /** Of the block at hand. */
  frame = 0
  /** Between the block before and the block at hand. */
  passedOverFrames = 0
  private expectedFrame: number | null = null

  /** @param currentFrame As the scope says it while `process` runs. */
  tick(currentFrame: number): void {
    const expected = this.expectedFrame ?? currentFrame
    this.frame = Math.max(currentFrame, expected)
    this.passedOverFrames = this.frame - expected
    this.expectedFrame = this.frame + BLOCK_FRAMES
  }
}
