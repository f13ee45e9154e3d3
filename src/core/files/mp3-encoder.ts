/** MP3 by LAME as WebAssembly, made known to mediabunny: at one rate, or at one that goes with the sound. */
import { CustomAudioEncoder, EncodedPacket, registerEncoder, type AudioCodec, type AudioSample } from 'mediabunny'
import { createMp3Encoder } from 'wasm-media-encoders'
import { mp3FrameBytes, MP3_FRAME_FRAMES } from './mp3-frames'

const RATES_HZ = [44_100, 48_000]
/** LAME's own qualities of a varying rate, by the mean that each comes to with music. */
const QUALITIES: Record<number, number> = { 128: 5, 192: 2, 256: 0 }

export function registerMp3Encoder(): void {
  registerEncoder(Mp3Encoder)
}

class Mp3Encoder extends CustomAudioEncoder {
  private encoder: Awaited<ReturnType<typeof createMp3Encoder>> | null = null
  /** Of the frame that is not whole yet. */
  private held = new Uint8Array(0)
  private frames = 0

  static override supports(codec: AudioCodec, { numberOfChannels, sampleRate }: AudioEncoderConfig): boolean {
    return codec === 'mp3' && numberOfChannels === 2 && RATES_HZ.includes(sampleRate)
  }

  async init(): Promise<void> {
    const { bitrate = 320_000, bitrateMode, sampleRate } = this.config
    const kbps = bitrate / 1_000
    this.encoder = await createMp3Encoder()
    const usual = { sampleRate, channels: 2 as const }
    this.encoder.configure(bitrateMode === 'variable' ? { ...usual, vbrQuality: QUALITIES[kbps] ?? 0 } : { ...usual, bitrate: kbps as 320 })
  }

  encode(sample: AudioSample): void {
    const planes = [0, 1].map(planeIndex => {
      const plane = new Float32Array(sample.numberOfFrames)
      sample.copyTo(plane, { planeIndex, format: 'f32-planar' })
      return plane
    })
    this.emit(this.encoder!.encode(planes as [Float32Array, Float32Array]))
  }

  flush(): void {
    this.emit(this.encoder!.finalize())
  }

  close(): void {
    this.encoder = null
  }

  /** @param bytes The encoder's; of one file, cut anywhere. */
  private emit(bytes: Uint8Array): void {
    const all = new Uint8Array(this.held.length + bytes.length)
    all.set(this.held)
    all.set(bytes, this.held.length)
    const { sampleRate, numberOfChannels } = this.config
    let at = 0
    for (let length = 0; (length = mp3FrameBytes(all, at)) > 0 && at + length <= all.length; at += length) {
      const seconds = MP3_FRAME_FRAMES / sampleRate
      const packet = new EncodedPacket(all.slice(at, at + length), 'key', this.frames * seconds, seconds)
      this.onPacket(packet, this.frames === 0 ? { decoderConfig: { codec: 'mp3', sampleRate, numberOfChannels } } : undefined)
      this.frames++
    }
    this.held = all.slice(at)
  }
}
