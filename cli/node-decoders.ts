/** What a browser brings and Node does not: decoders of AAC and Opus, for the importer's containers. */
import { AudioSample, CustomAudioDecoder, registerDecoder, type AudioCodec, type EncodedPacket } from 'mediabunny'
import { OfflineAudioContext } from 'node-web-audio-api'
import { OpusDecoder } from 'opus-decoder'

const ADTS_RATES_HZ = [96_000, 88_200, 64_000, 48_000, 44_100, 32_000, 24_000, 22_050, 16_000, 12_000, 11_025, 8_000]

export function registerNodeDecoders(): void {
  registerDecoder(AacDecoder)
  registerDecoder(OpusPacketDecoder)
}

/** Gathers the packets as an ADTS stream, which the Web Audio API for Node decodes at the end. */
class AacDecoder extends CustomAudioDecoder {
  private readonly parts: Uint8Array[] = []
  private firstTimestamp: number | null = null

  static override supports(codec: AudioCodec, config: AudioDecoderConfig): boolean {
    return codec === 'aac' && ADTS_RATES_HZ.includes(config.sampleRate) && config.numberOfChannels <= 6
  }

  init(): void {}

  decode({ data, timestamp }: EncodedPacket): void {
    this.firstTimestamp ??= timestamp
    // Packets of an ADTS file bring their headers along.
    if (data[0] === 0xff && (data[1] & 0xf6) === 0xf0) return void this.parts.push(data)
    const { sampleRate, numberOfChannels } = this.config
    const rate = ADTS_RATES_HZ.indexOf(sampleRate)
    const bytes = data.length + 7
    this.parts.push(
      Uint8Array.of(
        0xff,
        0xf1,
        (1 << 6) | (rate << 2) | (numberOfChannels >> 2),
        ((numberOfChannels & 3) << 6) | (bytes >> 11),
        (bytes >> 3) & 255,
        ((bytes & 7) << 5) | 0x1f,
        0xfc,
      ),
      data,
    )
  }

  async flush(): Promise<void> {
    if (this.parts.length === 0) return
    const { sampleRate } = this.config
    const stream = Buffer.concat(this.parts.splice(0))
    const bytes = stream.buffer.slice(stream.byteOffset, stream.byteOffset + stream.byteLength)
    const decoded = await new OfflineAudioContext(2, 1, sampleRate).decodeAudioData(bytes)
    emit(
      this.onSample,
      Array.from({ length: decoded.numberOfChannels }, (_, c) => decoded.getChannelData(c)),
      { sampleRate, timestamp: this.firstTimestamp ?? 0 },
    )
  }

  close(): void {}
}

class OpusPacketDecoder extends CustomAudioDecoder {
  private decoder: OpusDecoder<48_000> | null = null
  private toSkip = 0

  static override supports(codec: AudioCodec, config: AudioDecoderConfig): boolean {
    return codec === 'opus' && config.numberOfChannels <= 2
  }

  async init(): Promise<void> {
    const { numberOfChannels, description } = this.config
    // RFC 7845, section 5.1: the encoder's delay is in bytes 10 and 11 of the identification header.
    const head = description instanceof Uint8Array ? description : description instanceof ArrayBuffer ? new Uint8Array(description) : null
    if (head && head.length >= 12) this.toSkip = head[10] | (head[11] << 8)
    this.decoder = new OpusDecoder({
      channels: numberOfChannels,
      streamCount: 1,
      coupledStreamCount: numberOfChannels - 1,
      channelMappingTable: numberOfChannels === 2 ? [0, 1] : [0],
    })
    await this.decoder.ready
  }

  decode({ data, timestamp }: EncodedPacket): void {
    const { channelData, samplesDecoded } = this.decoder!.decodeFrame(data)
    const skip = Math.min(this.toSkip, samplesDecoded)
    this.toSkip -= skip
    if (samplesDecoded > skip)
      emit(
        this.onSample,
        channelData.map(plane => plane.subarray(skip, samplesDecoded)),
        { sampleRate: 48_000, timestamp },
      )
  }

  flush(): void {}

  close(): void {
    this.decoder?.free()
  }
}

function emit(onSample: (sample: AudioSample) => unknown, planes: Float32Array[], when: { sampleRate: number; timestamp: number }): void {
  const frames = planes[0].length
  const data = new Float32Array(planes.length * frames)
  planes.forEach((plane, c) => data.set(plane, c * frames))
  onSample(new AudioSample({ data, format: 'f32-planar', numberOfChannels: planes.length, ...when }))
}
