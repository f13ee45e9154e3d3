/** An all-pass filter over a long delay: it smears a sound in time and leaves the loudness of every frequency as it is. */
export class AllPass {
  private readonly memory: Float32Array
  private at = 0

  /** @see M. R. Schroeder, Natural sounding artificial reverberation, J. Audio Eng. Soc. 10 (1962). */
  constructor(
    frames: number,
    private readonly gain: number,
  ) {
    this.memory = new Float32Array(frames)
  }

  reset(): void {
    this.memory.fill(0)
    this.at = 0
  }

  /** In place; any block length. */
  process(block: Float32Array): void {
    const { memory, gain } = this
    let { at } = this
    for (let i = 0; i < block.length; i++) {
      const delayed = memory[at]
      const fed = block[i] + gain * delayed
      block[i] = delayed - gain * fed
      // Below -300 dB there are only slow denormal numbers.
      memory[at] = Math.abs(fed) < 1e-15 ? 0 : fed
      if (++at === memory.length) at = 0
    }
    this.at = at
  }
}
