/** FLAC and MP3, by mediabunny and its encoders: libFLAC and LAME as WebAssembly, each in a worker of its own. */
import type { AudioSampleSource as Source, BufferTarget as Target, Output as Out } from 'mediabunny'
import type { Planar } from '../audio/frames'
import type { DeliveryTags, Encoder, FlacFormat, Mp3Format } from './encoders'
import { gapless } from './mp3-gapless'

/** Pushed at once: smaller pieces are mostly overhead. */
const PIECE_FRAMES = 24_000

/** By so much the encoder makes a sound softer at a rate, to leave room for what it adds; it is given back, for a file is to be as loud as the mix. */
const MP3_SCALES: Record<Mp3Format['kbps'], number> = { 128: 0.95, 192: 0.97, 256: 1, 320: 1 }
/** Two frames of an MP3. */
const ENCODER_HOLDS_FRAMES = 2_304

type Packed = FlacFormat | Mp3Format

export class PackedEncoder implements Encoder {
  private frames = 0

  /** Loaded only where it is asked for: the encoders are half a megabyte. */
  static async make(format: Packed, tags: DeliveryTags): Promise<PackedEncoder> {
    const { AudioSample, AudioSampleSource, BufferTarget, FlacOutputFormat, Mp3OutputFormat, Output, canEncodeAudio } = await import('mediabunny')
    if (format.kind === 'mp3' && !(await canEncodeAudio('mp3'))) (await import('@mediabunny/mp3-encoder')).registerMp3Encoder()
    if (format.kind === 'flac' && !(await canEncodeAudio('flac'))) (await import('@mediabunny/flac-encoder')).registerFlacEncoder()
    const target = new BufferTarget()
    const output = new Output({ format: format.kind === 'mp3' ? new Mp3OutputFormat() : new FlacOutputFormat(), target })
    const source = new AudioSampleSource(format.kind === 'mp3' ? { codec: 'mp3', bitrate: 1_000 * format.kbps } : { codec: 'flac' })
    output.addAudioTrack(source)
    output.setMetadataTags(Object.fromEntries(Object.entries(tags).filter(([, value]) => value)))
    await output.start()
    const scale = format.kind === 'mp3' ? MP3_SCALES[format.kbps] : 1
    const sampleOf = (planes: Planar, from: number, to: number) => {
      const data = new Float32Array(2 * (to - from))
      data.set(planes[0].subarray(from, to))
      data.set(planes[1].subarray(from, to), to - from)
      if (scale !== 1) for (let i = 0; i < data.length; i++) data[i] /= scale
      return (timestamp: number) => new AudioSample({ data, format: 'f32-planar', numberOfChannels: 2, sampleRate: format.sampleRateHz, timestamp })
    }
    return new PackedEncoder(format, output, target, source, sampleOf)
  }

  private constructor(
    private readonly format: Packed,
    private readonly output: Out,
    private readonly target: Target,
    private readonly source: Source,
    private readonly sampleOf: (planes: Planar, from: number, to: number) => (timestamp: number) => Parameters<Source['add']>[0],
  ) {}

  get extension(): string {
    return this.format.kind
  }

  get mediaType(): string {
    return this.format.kind === 'mp3' ? 'audio/mpeg' : 'audio/flac'
  }

  async push(planes: Planar): Promise<void> {
    for (let from = 0; from < planes[0].length; from += PIECE_FRAMES) {
      const to = Math.min(planes[0].length, from + PIECE_FRAMES)
      const sample = this.sampleOf(planes, from, to)(this.frames / this.format.sampleRateHz)
      await this.source.add(sample)
      sample.close()
      this.frames += to - from
    }
  }

  async finish(): Promise<Uint8Array<ArrayBuffer>[]> {
    const { frames } = this
    // What an encoder still holds when it ends is not the end of the sound, then.
    if (this.format.kind === 'mp3') await this.push([new Float32Array(ENCODER_HOLDS_FRAMES), new Float32Array(ENCODER_HOLDS_FRAMES)])
    await this.output.finalize()
    const bytes = new Uint8Array(this.target.buffer!)
    return [this.format.kind === 'mp3' ? gapless(bytes, frames) : bytes]
  }

  async cancel(): Promise<void> {
    await this.output.cancel()
  }
}
