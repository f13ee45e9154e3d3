/** Decoding sound files, chunk by chunk, at their own rate. */
import type { Planar } from '../audio/frames'
import type { ByteSource } from './byte-source'
import { openAiff } from './decode-aiff'
import { openContainer } from './decode-container'
import { findMp3Frame, sniffFormat, xingFrameCount } from './sniff'
import { isImportable, type OpenSoundResult } from './sound-stream'
import { bytesPerSample, decodeSamples, readWavHeader } from './wav'

const HEAD_BYTES = 65_536
const READ_BYTES = 131_072
/** An ID3 tag with pictures may fill megabytes before the first frame. */
const MAX_TAG_BYTES = 32 << 20

/** Looks at a file's first bytes and makes ready to decode it. WAV, AIFF, MP3, FLAC, Ogg Vorbis and what `openContainer` reads; up to eight channels. */
export async function openSound(source: ByteSource): Promise<OpenSoundResult> {
  if (source.size === 0) return { ok: false, reason: 'empty', format: 'unknown' }
  const head = await source.read(0, HEAD_BYTES)
  const format = sniffFormat(head)
  switch (format) {
    case 'wav':
      return openWav(source, head)
    case 'mp3':
      return openMp3(source, head)
    case 'flac':
      return openFlac(source, head)
    case 'ogg-vorbis':
      return openVorbis(source, head)
    case 'aiff':
      return openAiff(source)
    case 'mp4':
    case 'webm':
    case 'adts':
    case 'ogg-opus':
      return openContainer(source, format)
    case 'unknown':
      return { ok: false, reason: 'not-sound', format }
  }
}

async function openWav(source: ByteSource, head: Uint8Array): Promise<OpenSoundResult> {
  let parsed = readWavHeader(head)
  // Programs put pictures and notes before the samples: look further once.
  if (!parsed.ok && parsed.reason === 'no-samples' && source.size > head.length) parsed = readWavHeader(await source.read(0, 16 << 20))
  if (!parsed.ok)
    return { ok: false, reason: parsed.reason === 'not-wav' ? 'not-sound' : parsed.reason === 'no-samples' ? 'empty' : 'unsupported', format: 'wav' }
  const { sampleRateHz, channels, encoding, dataOffset, dataBytes } = parsed.header
  if (!isImportable(sampleRateHz, channels)) return { ok: false, reason: 'unsupported', format: 'wav' }
  const frameBytes = bytesPerSample(encoding) * channels
  const open = dataBytes === 0xffffffff || (dataBytes === 0 && source.size > dataOffset)
  const end = open ? source.size : Math.min(source.size, dataOffset + dataBytes)
  if (end - dataOffset < frameBytes) return { ok: false, reason: 'empty', format: 'wav' }
  const step = Math.floor(READ_BYTES / frameBytes) * frameBytes
  return {
    ok: true,
    sound: {
      format: 'wav',
      sampleRateHz,
      channels,
      promisedFrames: open ? null : Math.floor(dataBytes / frameBytes),
      async *chunks() {
        for await (const { bytes, fraction } of readAll(source, dataOffset, end, step)) yield { planes: decodeSamples(bytes, encoding, channels), fraction }
      },
    },
  }
}

async function openMp3(source: ByteSource, head: Uint8Array): Promise<OpenSoundResult> {
  let tagBytes = 0
  if (head[0] === 0x49 && head[1] === 0x44 && head[2] === 0x33) tagBytes = 10 + ((head[6] << 21) | (head[7] << 14) | (head[8] << 7) | head[9])
  const start = tagBytes > 0 && tagBytes < MAX_TAG_BYTES ? await source.read(tagBytes, tagBytes + HEAD_BYTES) : head
  const frame = findMp3Frame(start, 0)
  if (!frame) return { ok: false, reason: 'not-sound', format: 'mp3' }
  const frames = xingFrameCount(start, frame)
  const { MPEGDecoder } = await import('mpg123-decoder')
  return {
    ok: true,
    sound: {
      format: 'mp3',
      sampleRateHz: frame.sampleRateHz,
      channels: frame.channels,
      // The header counts whole frames; encoder delay and padding, at most about 3 frames, are taken off by the decoder.
      promisedFrames: frames === null ? null : Math.max(0, frames - 3) * frame.samplesPerFrame,
      async *chunks() {
        const decoder = new MPEGDecoder({ enableGapless: true })
        await decoder.ready
        try {
          for await (const { bytes, fraction } of readAll(source, tagBytes)) yield { planes: planesOf(decoder.decode(bytes), frame.channels), fraction }
        } finally {
          decoder.free()
        }
      },
    },
  }
}

async function openFlac(source: ByteSource, head: Uint8Array): Promise<OpenSoundResult> {
  if (head.length < 42) return { ok: false, reason: 'empty', format: 'flac' }
  // STREAMINFO: 20 bits of rate, 3 of channels - 1, 5 of depth, 36 of frames.
  const sampleRateHz = (head[18] << 12) | (head[19] << 4) | (head[20] >> 4)
  const channels = ((head[20] >> 1) & 7) + 1
  const bits = (((head[20] & 1) << 4) | (head[21] >> 4)) + 1
  const frames = (head[21] & 15) * 2 ** 32 + ((head[22] << 24) | (head[23] << 16) | (head[24] << 8) | head[25] | 0) + (head[22] & 0x80 ? 2 ** 32 : 0)
  if (!isImportable(sampleRateHz, channels)) return { ok: false, reason: 'unsupported', format: 'flac' }
  const { FLACDecoder } = await import('@wasm-audio-decoders/flac')
  return {
    ok: true,
    sound: {
      format: 'flac',
      sampleRateHz,
      channels,
      promisedFrames: frames > 0 ? frames : null,
      async *chunks() {
        const decoder = new FLACDecoder()
        await decoder.ready
        try {
          let found = 0
          const own = (decoded: Decoded) => {
            found += decoded.samplesDecoded
            const planes = planesOf(decoded, channels)
            for (const plane of planes) toSteps(plane, bits)
            return planes
          }
          for await (const { bytes, fraction } of readAll(source, 0)) yield { planes: own(await decoder.decode(bytes)), fraction }
          // The decoder passes over a last frame that no other follows, if it is short: the first ones follow it once more, and are left out again.
          if (frames > found) {
            const first = await audioStart(source)
            const left = frames - found
            const again = first === null ? [] : [await decoder.decode(await source.read(first, first + READ_BYTES)), await decoder.flush()]
            let kept = 0
            for (const decoded of again) {
              const planes = own(decoded).map(plane => plane.subarray(0, Math.max(0, left - kept)))
              kept += planes[0]?.length ?? 0
              yield { planes, fraction: 1 }
            }
          } else yield { planes: own(await decoder.flush()), fraction: 1 }
        } finally {
          decoder.free()
        }
      },
    },
  }
}

/** Where the first frame of a FLAC file begins, after its blocks of metadata; null if they never end. */
async function audioStart(source: ByteSource): Promise<number | null> {
  for (let at = 4; at + 4 <= source.size;) {
    const [kind, ...length] = await source.read(at, at + 4)
    at += 4 + ((length[0] << 16) | (length[1] << 8) | length[2])
    if (kind & 0x80) return at
  }
  return null
}

/** The decoder takes the largest step for full scale, where files mean one more: each sample back to the step that it was. In place. */
function toSteps(plane: Float32Array, bits: number): void {
  const fullScale = 2 ** (bits - 1)
  for (let i = 0; i < plane.length; i++) plane[i] = Math.round(plane[i] * (fullScale - 1)) / fullScale
}

async function openVorbis(source: ByteSource, head: Uint8Array): Promise<OpenSoundResult> {
  // The identification header begins at byte 28 of the first page: type, "vorbis", version, channels, rate.
  const channels = head[39]
  const sampleRateHz = new DataView(head.buffer, head.byteOffset).getUint32(40, true)
  if (!isImportable(sampleRateHz, channels)) return { ok: false, reason: 'unsupported', format: 'ogg-vorbis' }
  const ending = await lastOggPage(source)
  const { OggVorbisDecoder } = await import('@wasm-audio-decoders/ogg-vorbis')
  return {
    ok: true,
    sound: {
      format: 'ogg-vorbis',
      sampleRateHz,
      channels,
      // Without its last page the stream was cut: any more than was there counts as promised.
      promisedFrames: ending === null ? Infinity : ending,
      async *chunks() {
        const decoder = new OggVorbisDecoder()
        await decoder.ready
        try {
          for await (const { bytes, fraction } of readAll(source, 0)) yield { planes: planesOf(await decoder.decode(bytes), channels), fraction }
          yield { planes: planesOf(await decoder.flush(), channels), fraction: 1 }
        } finally {
          decoder.free()
        }
      },
    },
  }
}

/** The granule position (frames) of the page that ends the stream; null if no page says that it does. @see RFC 3533, section 6. */
async function lastOggPage(source: ByteSource): Promise<number | null> {
  const tail = await source.read(Math.max(0, source.size - 65_536), source.size)
  for (let at = tail.length - 27; at >= 0; at--) {
    if (tail[at] !== 0x4f || tail[at + 1] !== 0x67 || tail[at + 2] !== 0x67 || tail[at + 3] !== 0x53) continue
    if ((tail[at + 5] & 4) === 0) return null
    return Number(new DataView(tail.buffer, tail.byteOffset).getBigInt64(at + 6, true))
  }
  return null
}

/** A stretch of the file piece by piece; the next is on its way while one is worked on. */
async function* readAll(source: ByteSource, from: number, to = source.size, step = READ_BYTES): AsyncGenerator<{ bytes: Uint8Array; fraction: number }> {
  const read = (at: number) => (at < to ? source.read(at, Math.min(to, at + step)) : null)
  let next = read(from)
  for (let at = from; next; at += step) {
    const bytes = await next
    next = read(at + step)
    yield { bytes, fraction: Math.min(1, (at + bytes.length - from) / (to - from)) }
  }
}

interface Decoded {
  channelData: Float32Array[]
  samplesDecoded: number
}

/** One array a channel of the file, in memory of its own and unshared: the decoders copy what they give. */
function planesOf({ channelData, samplesDecoded }: Decoded, channels: number): Planar {
  if (samplesDecoded === 0) return Array.from({ length: channels }, () => new Float32Array(0))
  return Array.from({ length: channels }, (_, c) => channelData[c] ?? channelData[0].slice()) as Planar
}
