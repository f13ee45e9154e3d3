/** A ring of frames, read and written a block at a time. */
export class DelayLine {
  private readonly memory: Float32Array
  private at = 0

  constructor(readonly length: number) {
    this.memory = new Float32Array(length)
  }

  reset(): void {
    this.memory.fill(0)
    this.at = 0
  }

  write(block: Float32Array): void {
    const { memory } = this
    const first = Math.min(block.length, memory.length - this.at)
    for (let i = 0; i < first; i++) memory[this.at + i] = block[i]
    for (let i = first; i < block.length; i++) memory[i - first] = block[i]
    this.at = (this.at + block.length) % memory.length
  }

  /** The block that was written `delayFrames` before the place of the next write. */
  read(block: Float32Array, delayFrames: number): void {
    const { memory } = this
    const from = (this.at - delayFrames + memory.length) % memory.length
    const first = Math.min(block.length, memory.length - from)
    for (let i = 0; i < first; i++) block[i] = memory[from + i]
    for (let i = first; i < block.length; i++) block[i] = memory[i - first]
  }
}
