/** WAV, rounded with a triangular dither, with its tags behind the samples. */
import type { Planar } from '../audio/frames'
import { makeRandom } from '../audio/random'
import { encodeInfo, encodeSamples, encodeWavHeader, type WrittenEncoding } from '../files/wav'
import { tempoAndKey } from './tempo-and-key'
import type { DeliveryTags, Encoder, WavFormat } from './encoders'

const DITHER_SEED = 24
const ENCODINGS: Record<WavFormat['bits'], WrittenEncoding> = { 16: 'pcm16', 24: 'pcm24', 32: 'float32' }

export class WavEncoder implements Encoder {
  readonly mediaType = 'audio/wav'
  private readonly encoding: WrittenEncoding
  private readonly dither = makeRandom(DITHER_SEED)
  private readonly parts: Uint8Array<ArrayBuffer>[] = []
  private frames = 0

  constructor(
    private readonly format: WavFormat,
    private readonly tags: DeliveryTags = {},
  ) {
    this.encoding = ENCODINGS[format.bits]
  }

  push(planes: Planar): Promise<void> {
    this.frames += planes[0].length
    this.parts.push(encodeSamples(planes, this.encoding, this.encoding === 'float32' ? null : this.dither))
    return Promise.resolve()
  }

  finish(): Promise<Uint8Array<ArrayBuffer>[]> {
    const { format, tags, encoding, frames } = this
    const info = encodeInfo({ INAM: tags.title, IART: tags.artist, IPRD: tags.album, ICRD: tags.year ? String(tags.year) : undefined, ICMT: tempoAndKey(tags) })
    const header = encodeWavHeader({ frames, channels: 2, sampleRateHz: format.sampleRateHz, encoding, bytesAfter: info.length })
    return Promise.resolve([header, ...this.parts, info])
  }

  cancel(): Promise<void> {
    return Promise.resolve()
  }
}
