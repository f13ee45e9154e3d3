/** What a delivery is written as: sound goes in piece by piece, a file comes out. */
import { makeRandom } from '../audio/random'
import type { Planar } from '../audio/frames'
import { encodeSamples, encodeWavHeader, type WrittenEncoding } from '../files/wav'

export const DELIVERY_BITS = [16, 24, 32] as const
/** WAV of whole numbers, 16 bits with triangular dither as 24; 32 bits are floats, which nothing is rounded in. */
export interface DeliveryFormat {
  kind: 'wav'
  bits: (typeof DELIVERY_BITS)[number]
  sampleRateHz: 44_100 | 48_000
}
export type DeliveryRateHz = DeliveryFormat['sampleRateHz']

export interface Encoder {
  readonly extension: string
  readonly mediaType: string
  /** Two channels; they are the caller's again afterwards. */
  push(planes: Planar): void
  /** The file, in parts that follow each other. Nothing is pushed after that. */
  finish(): Uint8Array<ArrayBuffer>[]
}

export function makeEncoder(format: DeliveryFormat): Encoder {
  switch (format.kind) {
    case 'wav':
      return new WavEncoder(format)
  }
}

const DITHER_SEED = 24
const ENCODINGS: Record<DeliveryFormat['bits'], WrittenEncoding> = { 16: 'pcm16', 24: 'pcm24', 32: 'float32' }

class WavEncoder implements Encoder {
  readonly extension = 'wav'
  readonly mediaType = 'audio/wav'
  private readonly encoding: WrittenEncoding
  private readonly dither = makeRandom(DITHER_SEED)
  private readonly parts: Uint8Array<ArrayBuffer>[] = []
  private frames = 0

  constructor(private readonly format: DeliveryFormat) {
    this.encoding = ENCODINGS[format.bits]
  }

  push(planes: Planar): void {
    this.frames += planes[0].length
    this.parts.push(encodeSamples(planes, this.encoding, this.encoding === 'float32' ? null : this.dither))
  }

  finish(): Uint8Array<ArrayBuffer>[] {
    const { sampleRateHz } = this.format
    return [encodeWavHeader({ frames: this.frames, channels: 2, sampleRateHz, encoding: this.encoding }), ...this.parts]
  }
}
