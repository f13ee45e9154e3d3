/** FLAC, MP3, AAC and Opus, by mediabunny: libFLAC, LAME and FFmpeg's AAC as WebAssembly; Opus by the browser. */
import type { AudioCodec, AudioSample, AudioSampleSource, BufferTarget, EncodedPacket, MetadataTags, Output, OutputFormat } from 'mediabunny'
import type { Planar } from '../audio/frames'
import { registerEncoderOf, sampleOf } from '../files/register-encoders'
import type { DeliveryFormat, DeliveryTags, Encoder, Mp3Format, WavFormat } from './encoders'
import { tempoAndKey } from './tempo-and-key'
import { gapless } from './mp3-gapless'

/** Pushed at once: smaller pieces are mostly overhead. */
const PIECE_FRAMES = 24_000

/** By so much the encoder makes a sound softer at a rate, to leave room for what it adds; it is given back, for a file is to be as loud as the mix. */
const MP3_SCALES: Record<Mp3Format['kbps'], number> = { 128: 0.95, 192: 0.97, 256: 1, 320: 1 }

type Packed = Exclude<DeliveryFormat, WavFormat>

const MEDIA_TYPES: Record<Packed['kind'], string> = { flac: 'audio/flac', mp3: 'audio/mpeg', aac: 'audio/mp4', opus: 'audio/ogg' }

/** How a codec stands to the sound's own frames. */
interface Timing {
  /** Before the first frame it puts so many of its own, which the container tells players to leave out. */
  delayFrames: number
  /** Whether its packets count from that delay, or from what goes in. */
  countsFromDelay: boolean
  /** Silence that is pushed after the sound, so that what it still holds when it ends is not the end of the sound. */
  pushedAfter: number
}
const TIMINGS: Record<Packed['kind'], Timing> = {
  flac: { delayFrames: 0, countsFromDelay: false, pushedAfter: 0 },
  // Two of its frames; the tag at its front says what of them is not the sound.
  mp3: { delayFrames: 0, countsFromDelay: false, pushedAfter: 2_304 },
  aac: { delayFrames: 1_024, countsFromDelay: true, pushedAfter: 0 },
  // RFC 7845, section 4.2: as most encoders have it, until the header says otherwise.
  opus: { delayFrames: 312, countsFromDelay: false, pushedAfter: 312 },
}

/** 20 ms, as encoders have it that are asked for nothing else. */
const OPUS_PACKET_FRAMES = 960
const OPUS_PACKET_SECONDS = OPUS_PACKET_FRAMES / 48_000

/** Nothing here writes a format. */
export class NoEncoderError extends Error {
  constructor(readonly kind: string) {
    super(`nothing here writes ${kind}`)
    this.name = 'NoEncoderError'
  }
}

export class PackedEncoder implements Encoder {
  private frames = 0

  /**
   * Encoders are loaded only where they are asked for: they are half a megabyte each.
   * @throws NoEncoderError
   */
  static async make(format: Packed, tags: DeliveryTags): Promise<PackedEncoder> {
    const bunny = await import('mediabunny')
    await registerEncoderOf(format.kind)
    if (!(await bunny.canEncodeAudio(format.kind, { numberOfChannels: 2, sampleRate: format.sampleRateHz }))) throw new NoEncoderError(format.kind)
    const containers: Record<Packed['kind'], () => OutputFormat> = {
      flac: () => new bunny.FlacOutputFormat(),
      // Its information frame comes from here.
      mp3: () => new bunny.Mp3OutputFormat({ xingHeader: false }),
      aac: () => new bunny.Mp4OutputFormat({ fastStart: 'in-memory' }),
      opus: () => new bunny.OggOutputFormat(),
    }
    const target = new bunny.BufferTarget()
    const output = new bunny.Output({ format: containers[format.kind](), target })
    const packets = new LastPacket(format)
    const drains = format.kind === 'opus' && (await emptiesItself())
    const config = {
      codec: format.kind as AudioCodec,
      ...('kbps' in format ? { bitrate: 1_000 * format.kbps } : {}),
      ...(varies(format) ? { bitrateMode: 'variable' as const } : {}),
    }
    const source = new bunny.AudioSampleSource({ ...config, onEncodedPacket: (packet, meta) => packets.trim(packet, meta) })
    output.addAudioTrack(source)
    output.setMetadataTags(metadataOf(tags, format.kind))
    await output.start()
    return new PackedEncoder(format, { output, target, source }, packets, drains, bunny.AudioSample)
  }

  private constructor(
    private readonly format: Packed,
    private readonly file: { output: Output; target: BufferTarget; source: AudioSampleSource },
    private readonly packets: LastPacket,
    private readonly drains: boolean,
    private readonly Sample: typeof AudioSample,
  ) {}

  get mediaType(): string {
    return MEDIA_TYPES[this.format.kind]
  }

  async push(planes: Planar): Promise<void> {
    const { format, file, Sample } = this
    const { delayFrames, countsFromDelay } = TIMINGS[format.kind]
    const gain = format.kind === 'mp3' && !varies(format) ? 1 / MP3_SCALES[format.kbps] : 1
    for (let from = 0; from < planes[0].length; from += PIECE_FRAMES) {
      const piece = planes.map(plane => plane.subarray(from, from + PIECE_FRAMES))
      const given = gain === 1 ? piece : piece.map(plane => plane.map(x => gain * x))
      const firstFrame = this.frames - (countsFromDelay ? delayFrames : 0)
      const sample = sampleOf(Sample, given, { sampleRateHz: format.sampleRateHz, firstFrame })
      await file.source.add(sample)
      sample.close()
      this.frames += piece[0].length
    }
  }

  async finish(): Promise<Uint8Array<ArrayBuffer>[]> {
    const { frames } = this
    const pushedAfter = this.format.kind === 'opus' ? this.packets.delayFrames : TIMINGS[this.format.kind].pushedAfter
    this.packets.endAt(frames)
    if (pushedAfter > 0 && !this.drains) await this.push([new Float32Array(pushedAfter), new Float32Array(pushedAfter)])
    await this.file.output.finalize()
    const bytes = new Uint8Array(this.file.target.buffer!)
    return [this.format.kind === 'mp3' ? gapless(bytes, frames, varies(this.format) ? 'variable' : 'constant') : bytes]
  }

  async cancel(): Promise<void> {
    await this.file.output.cancel()
  }
}

/**
 * Whether the Opus encoder that is here gives what it still holds when it ends, as not every browser's does: of one packet's frames it then makes
 * two. Silence after the sound would come out as well.
 */
async function emptiesItself(): Promise<boolean> {
  const { AudioSample: Sample, AudioSampleSource: Source, NullTarget, OggOutputFormat, Output: File } = await import('mediabunny')
  let packets = 0
  const file = new File({ format: new OggOutputFormat(), target: new NullTarget() })
  const source = new Source({ codec: 'opus', bitrate: 96_000, onEncodedPacket: () => void packets++ })
  file.addAudioTrack(source)
  await file.start()
  const silence = new Float32Array(OPUS_PACKET_FRAMES)
  const sample = sampleOf(Sample, [silence, silence], { sampleRateHz: 48_000, firstFrame: 0 })
  await source.add(sample)
  sample.close()
  await file.finalize()
  return packets > 1
}

/** Codecs write whole packets: the last one says how much of it is the sound. */
class LastPacket {
  private endSeconds = Infinity
  private packets = 0
  delayFrames: number

  constructor(private readonly format: Packed) {
    this.delayFrames = TIMINGS[format.kind].delayFrames
  }

  endAt(frames: number): void {
    const { countsFromDelay } = TIMINGS[this.format.kind]
    if (this.delayFrames > 0) this.endSeconds = (frames + (countsFromDelay ? 0 : this.delayFrames)) / this.format.sampleRateHz
  }

  trim(packet: EncodedPacket, meta: EncodedAudioChunkMetadata | undefined): void {
    if (this.format.kind === 'opus') this.delayFrames = preSkipOf(meta) ?? this.delayFrames
    const isOpus = this.format.kind === 'opus'
    // Of Opus not every browser's packets say their times from the delay on, all of them: they are counted.
    const startSeconds = isOpus ? this.packets * OPUS_PACKET_SECONDS : packet.timestamp
    const left = this.endSeconds - startSeconds
    if (left > 0 && left < (isOpus ? OPUS_PACKET_SECONDS : packet.duration)) (packet as { duration: number }).duration = left
    this.packets++
  }
}

function varies(format: Packed): boolean {
  return format.kind === 'mp3' && format.varies === true
}

/** What an Opus encoder puts before the sound. @see RFC 7845, section 5.1. */
function preSkipOf(meta: EncodedAudioChunkMetadata | undefined): number | null {
  const description = meta?.decoderConfig?.description
  if (!description) return null
  const head = ArrayBuffer.isView(description)
    ? new Uint8Array(description.buffer, description.byteOffset, description.byteLength)
    : new Uint8Array(description)
  return head.length >= 12 ? head[10] | (head[11] << 8) : null
}

/** Tempo and key have no name that all formats share: each has its own. */
const TEMPO_NAMES: Partial<Record<Packed['kind'], string>> = { mp3: 'TBPM', flac: 'BPM', opus: 'BPM' }
const KEY_NAMES: Partial<Record<Packed['kind'], string>> = { mp3: 'TKEY', flac: 'INITIALKEY', opus: 'INITIALKEY' }

function metadataOf({ title, artist, album, lyrics, year, tempoBpm, key, cover }: DeliveryTags, kind: Packed['kind']): MetadataTags {
  const raw: Record<string, string> = {}
  const [tempoName, keyName] = [TEMPO_NAMES[kind], KEY_NAMES[kind]]
  if (tempoBpm && tempoName) raw[tempoName] = String(Math.round(tempoBpm))
  if (key && keyName) raw[keyName] = kind === 'mp3' ? id3Key(key) : key
  const comment = tempoName ? '' : tempoAndKey({ tempoBpm, key })
  return {
    ...(title ? { title } : {}),
    ...(artist ? { artist } : {}),
    ...(album ? { album } : {}),
    ...(lyrics ? { lyrics } : {}),
    ...(comment ? { comment } : {}),
    ...(year ? { date: new Date(Date.UTC(year, 0, 1)) } : {}),
    ...(cover ? { images: [{ data: cover.data, mimeType: cover.mediaType, kind: 'coverFront' as const }] } : {}),
    ...(Object.keys(raw).length > 0 ? { raw } : {}),
  }
}

/** "F minor" as "Fm": at most three letters. @see ID3v2.4, frame TKEY. */
function id3Key(key: string): string {
  const [tonic, mode] = key.split(' ')
  return `${tonic}${mode === 'minor' ? 'm' : ''}`.slice(0, 3)
}
