/** What a browser brings and Node does not: an encoder of Opus. */
import type { AudioSample } from 'mediabunny'
import { CustomAudioEncoder, EncodedPacket, registerEncoder, type AudioCodec } from 'mediabunny'
import OpusScript from 'opusscript'

const RATE_HZ = 48_000
const CHANNELS = 2
/** 20 ms. */
const PACKET_FRAMES = 960
/** libopus: a rate's 400th and a look-ahead of 192 frames. */
const DELAY_FRAMES = 312
const USUAL_BITS_A_SECOND = 160_000

let isRegistered = false

export function registerNodeEncoders(): void {
  if (!isRegistered) registerEncoder(OpusEncoder)
  isRegistered = true
}

/** libopus as WebAssembly, of 16 bits: far finer than what the codec itself leaves out. */
export class OpusEncoder extends CustomAudioEncoder {
  private encoder: OpusScript | null = null
  private readonly held = new Int16Array(CHANNELS * PACKET_FRAMES)
  private heldFrames = 0
  private packets = 0

  static override supports(codec: AudioCodec, config: AudioEncoderConfig): boolean {
    return codec === 'opus' && config.sampleRate === RATE_HZ && config.numberOfChannels === CHANNELS
  }

  init(): void {
    this.encoder = new OpusScript(RATE_HZ, CHANNELS, OpusScript.Application.AUDIO)
    this.encoder.setBitrate(this.config.bitrate ?? USUAL_BITS_A_SECOND)
  }

  encode(sample: AudioSample): void {
    const frames = sample.numberOfFrames
    const planes = Array.from({ length: CHANNELS }, (_, planeIndex) => {
      const plane = new Float32Array(frames)
      sample.copyTo(plane, { planeIndex, format: 'f32-planar' })
      return plane
    })
    for (let i = 0; i < frames; i++) {
      planes.forEach((plane, c) => {
        this.held[CHANNELS * this.heldFrames + c] = Math.max(-32_768, Math.min(32_767, Math.round(32_767 * plane[i]!)))
      })
      if (++this.heldFrames === PACKET_FRAMES) this.emit()
    }
  }

  private emit(): void {
    const bytes = Uint8Array.from(this.encoder!.encode(Buffer.from(this.held.buffer), PACKET_FRAMES))
    const packet = new EncodedPacket(bytes, 'key', (this.packets * PACKET_FRAMES) / RATE_HZ, PACKET_FRAMES / RATE_HZ)
    const decoderConfig = { codec: 'opus', numberOfChannels: CHANNELS, sampleRate: RATE_HZ, description: identificationHeader() }
    this.onPacket(packet, this.packets === 0 ? { decoderConfig } : undefined)
    this.packets++
    this.held.fill(0)
    this.heldFrames = 0
  }

  flush(): void {
    if (this.heldFrames > 0) this.emit()
  }

  close(): void {
    this.encoder?.delete()
  }
}

/** @see RFC 7845, section 5.1. */
function identificationHeader(): Uint8Array<ArrayBuffer> {
  const head = new Uint8Array(19)
  const view = new DataView(head.buffer)
  head.set(new TextEncoder().encode('OpusHead'))
  view.setUint8(8, 1)
  view.setUint8(9, CHANNELS)
  view.setUint16(10, DELAY_FRAMES, true)
  view.setUint32(12, RATE_HZ, true)
  return head
}
