/** What some layers have their part in of what all voices go through together. */
import { BLOCK_FRAMES } from '../audio/frames'
import type { Chain } from '../effects/chain'
import type { Follower } from '../effects/effect'
import type { LayerId } from '../song/schema'

/** Beside the vocal bus, block by block: the same strips, turned down by the same amounts. */
export class Stem {
  private readonly layerIds: ReadonlySet<string>
  private readonly follower: Follower
  private readonly left = new Float32Array(BLOCK_FRAMES)
  private readonly right = new Float32Array(BLOCK_FRAMES)
  private readonly stripLeft = new Float32Array(BLOCK_FRAMES)
  private readonly stripRight = new Float32Array(BLOCK_FRAMES)

  /** @param chain The vocal bus's; it stays as it is. */
  constructor(layerIds: readonly LayerId[], chain: Chain) {
    this.layerIds = new Set(layerIds)
    this.follower = chain.makeFollower()
  }

  has(id: string): boolean {
    return this.layerIds.has(id)
  }

  reset(): void {
    this.follower.reset()
  }

  begin(): void {
    this.left.fill(0)
    this.right.fill(0)
  }

  /** Empty, to add one of its strips into; `addStripInto` then adds that to the stem and to the bus. */
  strip(): [Float32Array, Float32Array] {
    this.stripLeft.fill(0)
    this.stripRight.fill(0)
    return [this.stripLeft, this.stripRight]
  }

  addStripInto(busLeft: Float32Array, busRight: Float32Array): void {
    const { left, right, stripLeft, stripRight } = this
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      left[i] += stripLeft[i]
      right[i] += stripRight[i]
      busLeft[i] += stripLeft[i]
      busRight[i] += stripRight[i]
    }
  }

  /** What has come out of the bus's chain is replaced by the stem's part in it. */
  takeOver(busLeft: Float32Array, busRight: Float32Array): void {
    this.follower.process(this.left, this.right)
    busLeft.set(this.left)
    busRight.set(this.right)
  }
}
