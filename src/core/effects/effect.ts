/** What every effect can do. One file each; a chain is made of them. */

export interface ResetOptions {
  /** Something was just heard and goes on elsewhere: an effect that follows how loud the sound is keeps what it knows. */
  goingOn?: boolean
}

/**
 * Works on two channels in place, in blocks of at most BLOCK_FRAMES, without allocation. A row's effects also take one channel: the same array for
 * both; an effect then gets one channel always. @typeParam S Its settings.
 */
export interface Effect<S> {
  /** How much later the sound leaves than it came. */
  readonly latencyFrames: number
  /** Glides to other settings over the next blocks. */
  set(settings: S): void
  process(left: Float32Array, right: Float32Array): void
  /** Forgets what still rings, and stands at its settings. */
  reset(options?: ResetOptions): void
}

/**
 * Does to a part of a sound what an effect has just done to all of it, block by block: whatever parts the sound is cut into, what comes out of
 * their followers sums to what came out of the effect.
 */
export interface Follower {
  process(left: Float32Array, right: Float32Array): void
  reset(): void
}

/** An effect of a row. What it does is at every moment a factor or a filter, however it was decided: that is what a follower repeats. */
export interface RowEffect<S> extends Effect<S> {
  /** For settings that stay as they are from then on. */
  makeFollower(): Follower
}

/** Of an effect that is one gain for both sides, frame by frame. @param gains Of the block that it has just processed. */
export class GainFollower implements Follower {
  constructor(private readonly gains: Float32Array) {}

  process(left: Float32Array, right: Float32Array): void {
    const { gains } = this
    for (let i = 0; i < left.length; i++) {
      left[i] *= gains[i]
      right[i] *= gains[i]
    }
  }

  reset(): void {
    // It remembers nothing.
  }
}
