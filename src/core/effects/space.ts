/** What every space can do: it answers what it is sent, and its answer is added to the mix. */
import { BLOCK_FRAMES } from '../audio/frames'
import type { Effect } from './effect'

/** In blocks of BLOCK_FRAMES, without allocation. @typeParam S Its settings. */
export interface Space<S> {
  /** Glides to other settings over the next blocks. */
  set(settings: S): void
  /** Adds the answer to one block into the outputs, at a level that moves from `gain` to `endGain`. */
  addInto(outLeft: Float32Array, outRight: Float32Array, inLeft: Float32Array, inRight: Float32Array, gain: number, endGain?: number): void
  /** An echo's: how late it comes from now on. @param atOnce Nothing is heard of it yet. */
  setDelay?(seconds: number, atOnce: boolean): void
  /** Forgets what still rings, and stands at its settings. */
  reset(): void
}

/** A space as an effect: only its answer comes out. In blocks of BLOCK_FRAMES. */
export class Answer<S> implements Effect<S> {
  readonly latencyFrames = 0
  private readonly inputs = [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)]

  constructor(private readonly space: Space<S>) {}

  set(settings: S): void {
    this.space.set(settings)
  }

  process(left: Float32Array, right: Float32Array): void {
    const [inLeft, inRight] = this.inputs
    inLeft.set(left)
    inRight.set(right)
    left.fill(0)
    right.fill(0)
    this.space.addInto(left, right, inLeft, inRight, 1)
  }

  reset(): void {
    this.space.reset()
  }
}
