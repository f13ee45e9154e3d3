/** How a mix comes out of a small loudspeaker: one channel, no lows, not all highs. Only listened to, never delivered. */
import { BLOCK_FRAMES } from '../audio/frames'
import { highPass, lowPass, StereoBiquad } from '../effects/biquad'
import { Glide } from '../effects/glide'

/** About where the membrane of a telephone or a kitchen radio gives up. */
const LOWEST_HZ = 300
const HIGHEST_HZ = 9_000
/** Butterworth of fourth order, in two sections. */
const QS = [0.541196, 1.306563] as const

export class SmallSpeaker {
  private readonly filters = [...QS.map(q => highPass(LOWEST_HZ, q)), lowPass(HIGHEST_HZ)].map(section => new StereoBiquad(section))
  private readonly share: Glide
  private readonly middle = new Float32Array(BLOCK_FRAMES)

  constructor(isOn: boolean) {
    this.share = new Glide(isOn ? 1 : 0)
  }

  set(isOn: boolean): void {
    this.share.set(isOn ? 1 : 0)
  }

  settle(): void {
    this.share.settle()
    for (const filter of this.filters) filter.reset()
  }

  process(left: Float32Array, right: Float32Array): void {
    const { share, middle } = this
    share.advance()
    if (share.from === 0 && share.to === 0) return
    for (let i = 0; i < BLOCK_FRAMES; i++) middle[i] = 0.5 * (left[i] + right[i])
    for (const filter of this.filters) filter.process(middle, middle)
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const part = share.at(i)
      left[i] += part * (middle[i] - left[i])
      right[i] += part * (middle[i] - right[i])
    }
  }
}
