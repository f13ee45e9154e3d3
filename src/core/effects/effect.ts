/** What every effect can do. One file each; a chain is made of them. */

export interface ResetOptions {
  /** Something was just heard and goes on elsewhere: an effect that follows how loud the sound is keeps what it knows. */
  goingOn?: boolean
}

/** Works on two channels in place, in blocks of at most BLOCK_FRAMES, without allocation. @typeParam S Its settings. */
export interface Effect<S> {
  /** How much later the sound leaves than it came. */
  readonly latencyFrames: number
  /** Glides to other settings over the next blocks. */
  set(settings: S): void
  process(left: Float32Array, right: Float32Array): void
  /** Forgets what still rings, and stands at its settings. */
  reset(options?: ResetOptions): void
}
