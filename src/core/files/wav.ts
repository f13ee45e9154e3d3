/** WAV files: reading the header, converting samples both ways. */
import type { Planar } from '../audio/frames'

export type WavEncoding = 'pcm8' | 'pcm16' | 'pcm24' | 'pcm32' | 'float32' | 'float64'

export interface WavHeader {
  sampleRateHz: number
  channels: number
  encoding: WavEncoding
  /** Where the samples begin in the file. */
  dataOffset: number
  /** What the header promises; a file cut short has less. 0xffffffff or 0 from programs that stream. */
  dataBytes: number
}

export type WavHeaderResult = { ok: true; header: WavHeader } | { ok: false; reason: 'not-wav' | 'unsupported' | 'no-samples' }

const BYTES: Record<WavEncoding, number> = { pcm8: 1, pcm16: 2, pcm24: 3, pcm32: 4, float32: 4, float64: 8 }

export function bytesPerSample(encoding: WavEncoding): number {
  return BYTES[encoding]
}

/**
 * Reads RIFF, RIFX excluded. @param head The start of the file, long enough to hold all chunks before the samples.
 * @see Microsoft, Multiple channel audio data and WAVE files (WAVE_FORMAT_EXTENSIBLE).
 */
export function readWavHeader(head: Uint8Array): WavHeaderResult {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength)
  const tag = (at: number) => String.fromCharCode(...head.subarray(at, at + 4))
  if (head.length < 12 || (tag(0) !== 'RIFF' && tag(0) !== 'RF64') || tag(8) !== 'WAVE') return { ok: false, reason: 'not-wav' }
  let format: Omit<WavHeader, 'dataOffset' | 'dataBytes'> | null = null
  for (let at = 12; at + 8 <= head.length;) {
    const id = tag(at)
    const size = view.getUint32(at + 4, true)
    if (id === 'fmt ' && at + 24 <= head.length) {
      const encoding = readEncoding(view, at + 8, size)
      const channels = view.getUint16(at + 10, true)
      const sampleRateHz = view.getUint32(at + 12, true)
      if (!encoding || channels < 1) return { ok: false, reason: 'unsupported' }
      format = { sampleRateHz, channels, encoding }
    } else if (id === 'data') {
      return format ? { ok: true, header: { ...format, dataOffset: at + 8, dataBytes: size } } : { ok: false, reason: 'unsupported' }
    }
    at += 8 + size + (size & 1)
  }
  return { ok: false, reason: 'no-samples' }
}

function readEncoding(view: DataView, at: number, size: number): WavEncoding | null {
  const bits = view.getUint16(at + 14, true)
  let code = view.getUint16(at, true)
  if (code === 0xfffe && size >= 26 && at + 26 <= view.byteLength) code = view.getUint16(at + 24, true)
  if (code === 1) return bits === 8 ? 'pcm8' : bits === 16 ? 'pcm16' : bits === 24 ? 'pcm24' : bits === 32 ? 'pcm32' : null
  if (code === 3) return bits === 32 ? 'float32' : bits === 64 ? 'float64' : null
  return null
}

/** Interleaved bytes to planar samples; a last frame that is not whole is left out. Full scale of whole numbers is 1. */
export function decodeSamples(bytes: Uint8Array, encoding: WavEncoding, channels: number): Planar {
  const width = BYTES[encoding]
  const frames = Math.floor(bytes.length / (width * channels))
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  return Array.from({ length: channels }, (_, channel) => {
    const plane = new Float32Array(frames)
    let at = channel * width
    const stride = width * channels
    switch (encoding) {
      case 'pcm8':
        for (let i = 0; i < frames; i++, at += stride) plane[i] = (bytes[at] - 128) / 128
        break
      case 'pcm16':
        for (let i = 0; i < frames; i++, at += stride) plane[i] = view.getInt16(at, true) / 32_768
        break
      case 'pcm24':
        for (let i = 0; i < frames; i++, at += stride) plane[i] = (((bytes[at + 2] << 24) >> 8) | (bytes[at + 1] << 8) | bytes[at]) / 8_388_608
        break
      case 'pcm32':
        for (let i = 0; i < frames; i++, at += stride) plane[i] = view.getInt32(at, true) / 2_147_483_648
        break
      case 'float32':
        for (let i = 0; i < frames; i++, at += stride) plane[i] = view.getFloat32(at, true)
        break
      case 'float64':
        for (let i = 0; i < frames; i++, at += stride) plane[i] = view.getFloat64(at, true)
        break
    }
    return plane
  })
}

export type WrittenEncoding = 'pcm16' | 'pcm24' | 'float32'

/** The header of a WAV file whose length is known. */
export function encodeWavHeader({
  frames,
  channels,
  sampleRateHz,
  encoding,
  bytesAfter = 0,
}: {
  frames: number
  channels: number
  sampleRateHz: number
  encoding: WrittenEncoding
  /** Of chunks that follow the samples, a byte that evens those out not among them. */
  bytesAfter?: number
}): Uint8Array<ArrayBuffer> {
  const width = BYTES[encoding]
  const dataBytes = frames * channels * width
  const head = new Uint8Array(44)
  const view = new DataView(head.buffer)
  const tag = (at: number, text: string) =>
    head.set(
      [...text].map(letter => letter.charCodeAt(0)),
      at,
    )
  tag(0, 'RIFF')
  view.setUint32(4, 36 + dataBytes + (dataBytes & 1) + bytesAfter, true)
  tag(8, 'WAVEfmt ')
  view.setUint32(16, 16, true)
  view.setUint16(20, encoding === 'float32' ? 3 : 1, true)
  view.setUint16(22, channels, true)
  view.setUint32(24, sampleRateHz, true)
  view.setUint32(28, sampleRateHz * channels * width, true)
  view.setUint16(32, channels * width, true)
  view.setUint16(34, width * 8, true)
  tag(36, 'data')
  view.setUint32(40, dataBytes, true)
  return head
}

/**
 * Planar samples to interleaved bytes, little-endian, as is every machine that runs a browser; whole-number formats clip at full scale.
 * @param dither Gives uniform numbers in [0, 1): triangular dither of two steps is then added (Lipshitz, Wannamaker, Vanderkooy
 * 1992). Without it samples are rounded.
 */
export function encodeSamples(planes: Planar, encoding: WrittenEncoding, dither: (() => number) | null = null): Uint8Array<ArrayBuffer> {
  const frames = planes[0].length
  const channels = planes.length
  const bytes = new Uint8Array(frames * channels * BYTES[encoding])
  if (encoding === 'float32') {
    const floats = new Float32Array(bytes.buffer)
    for (let c = 0; c < channels; c++) for (let i = 0; i < frames; i++) floats[i * channels + c] = planes[c][i]
    return bytes
  }
  const scale = encoding === 'pcm16' ? 32_768 : 8_388_608
  const stepAt = (c: number, i: number) => {
    const noise = dither ? dither() - dither() : 0
    return Math.max(-scale, Math.min(scale - 1, Math.round(planes[c][i] * scale + noise)))
  }
  if (encoding === 'pcm16') {
    const steps = new Int16Array(bytes.buffer)
    for (let i = 0, at = 0; i < frames; i++) for (let c = 0; c < channels; c++) steps[at++] = stepAt(c, i)
    return bytes
  }
  for (let i = 0, at = 0; i < frames; i++) {
    for (let c = 0; c < channels; c++) {
      const step = stepAt(c, i)
      bytes[at++] = step & 0xff
      bytes[at++] = (step >> 8) & 0xff
      bytes[at++] = (step >> 16) & 0xff
    }
  }
  return bytes
}

/** The smallest format that holds every one of these samples exactly. */
export function exactEncoding(planes: Planar, atLeast: WrittenEncoding = 'pcm16'): WrittenEncoding {
  let encoding = atLeast
  for (const plane of planes) {
    for (let i = 0; i < plane.length && encoding !== 'float32'; i++) {
      if (encoding === 'pcm16' && !isWhole(plane[i] * 32_768, 32_768)) encoding = 'pcm24'
      if (encoding === 'pcm24' && !isWhole(plane[i] * 8_388_608, 8_388_608)) encoding = 'float32'
    }
  }
  return encoding
}

function isWhole(value: number, fullScale: number): boolean {
  return Number.isInteger(value) && value >= -fullScale && value < fullScale
}

/**
 * What a file says of itself, as a chunk that may follow the samples of whole frames of an even number of bytes; nothing where there is nothing to say.
 * @param fields By their four letters: INAM the title, IART the artist, IPRD the album, ICRD the date, ICMT a comment.
 * @see Microsoft and IBM, Multimedia Programming Interface and Data Specifications 1.0, the INFO list chunk. Text is UTF-8, as readers take it today.
 */
export function encodeInfo(fields: Record<string, string | undefined>): Uint8Array<ArrayBuffer> {
  const utf8 = new TextEncoder()
  const chunk = (id: string, content: Uint8Array) => {
    const bytes = new Uint8Array(8 + content.length + (content.length & 1))
    bytes.set(utf8.encode(id))
    new DataView(bytes.buffer).setUint32(4, content.length, true)
    bytes.set(content, 8)
    return bytes
  }
  const entries = Object.entries(fields).flatMap(([id, text]) => (text ? [chunk(id, utf8.encode(`${text}\0`))] : []))
  if (entries.length === 0) return new Uint8Array(0)
  const content = new Uint8Array(4 + entries.reduce((sum, entry) => sum + entry.length, 0))
  content.set(utf8.encode('INFO'))
  let at = 4
  for (const entry of entries) {
    content.set(entry, at)
    at += entry.length
  }
  return chunk('LIST', content)
}
