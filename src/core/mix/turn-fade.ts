/** Fades where playing begins or a loop turns. */
import { BLOCK_FRAMES } from '../audio/frames'

/** Where a loop turns, the sound fades out and in again over this many frames, 4 ms. */
const TURN_FADE_FRAMES = 192

export class TurnFade {
  private readonly gains = new Float32Array(BLOCK_FRAMES)
  /** Frames since playing began or a loop turned; Infinity if it began where nothing has to be faded in. */
  private since = Infinity

  /** @param goingOn Something was just heard: what begins in mid-sound is faded in. */
  begin(goingOn: boolean): void {
    this.since = goingOn ? 0 : Infinity
  }

  /**
   * The gains of the next block, whose first `split` frames lie before the turn; null for a block that is far from where it began and turns.
   * @param framesToTurn From the block's start; Infinity without a loop.
   */
  next(split: number, framesToTurn: number): Float32Array | null {
    const { gains, since } = this
    const isNear = framesToTurn < BLOCK_FRAMES + TURN_FADE_FRAMES || since < TURN_FADE_FRAMES
    for (let i = 0; isNear && i < BLOCK_FRAMES; i++) {
      const after = i < split ? since + i : i - split
      const left = i < split ? framesToTurn - i : Infinity
      gains[i] = Math.min(1, after / TURN_FADE_FRAMES, left / TURN_FADE_FRAMES)
    }
    this.since = split < BLOCK_FRAMES ? BLOCK_FRAMES - split : since + BLOCK_FRAMES
    return isNear ? gains : null
  }
}
