/** WAV, rounded with a triangular dither. */
import type { Planar } from '../audio/frames'
import { makeRandom } from '../audio/random'
import { encodeSamples, encodeWavHeader, type WrittenEncoding } from '../files/wav'
import type { Encoder, WavFormat } from './encoders'

const DITHER_SEED = 24
const ENCODINGS: Record<WavFormat['bits'], WrittenEncoding> = { 16: 'pcm16', 24: 'pcm24', 32: 'float32' }

export class WavEncoder implements Encoder {
  readonly extension = 'wav'
  readonly mediaType = 'audio/wav'
  private readonly encoding: WrittenEncoding
  private readonly dither = makeRandom(DITHER_SEED)
  private readonly parts: Uint8Array<ArrayBuffer>[] = []
  private frames = 0

  constructor(private readonly format: WavFormat) {
    this.encoding = ENCODINGS[format.bits]
  }

  push(planes: Planar): Promise<void> {
    this.frames += planes[0].length
    this.parts.push(encodeSamples(planes, this.encoding, this.encoding === 'float32' ? null : this.dither))
    return Promise.resolve()
  }

  finish(): Promise<Uint8Array<ArrayBuffer>[]> {
    const { sampleRateHz } = this.format
    return Promise.resolve([encodeWavHeader({ frames: this.frames, channels: 2, sampleRateHz, encoding: this.encoding }), ...this.parts])
  }

  cancel(): Promise<void> {
    return Promise.resolve()
  }
}
