/** Numbers that reach a changed value without a click. */
import { BLOCK_FRAMES } from '../audio/frames'

/** A changed plan comes in over this many blocks, 8 ms. */
export const SWAP_BLOCKS = 3

/** A number that moves in a straight line over `SWAP_BLOCKS` blocks. */
export class Glide {
  /** Value at the start and at the end of the current block. */
  from: number
  to: number
  private target: number
  private blocks = 0

  constructor(value: number) {
    this.from = this.to = this.target = value
  }

  set(target: number): void {
    if (target === this.target) return
    this.target = target
    this.blocks = SWAP_BLOCKS
  }

  /** Whether it stays as it is. */
  get isSettled(): boolean {
    return this.blocks === 0
  }

  settle(): void {
    this.from = this.to = this.target
    this.blocks = 0
  }

  advance(): void {
    this.from = this.to
    if (this.blocks === 0) return
    this.to = this.blocks === 1 ? this.target : this.from + (this.target - this.from) / this.blocks
    this.blocks--
  }

  at(i: number): number {
    return this.from + ((this.to - this.from) * i) / BLOCK_FRAMES
  }
}
