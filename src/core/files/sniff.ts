/** Telling what a file is by its first bytes, never by its name. */

export type SoundFormat = 'wav' | 'mp3' | 'flac' | 'ogg-vorbis' | 'ogg-opus' | 'mp4' | 'aiff' | 'webm' | 'adts' | 'unknown'

/** @param head At least the first 16 KiB where the file has them. */
export function sniffFormat(head: Uint8Array): SoundFormat {
  const text = (at: number, length: number) => String.fromCharCode(...head.subarray(at, at + length))
  if ((text(0, 4) === 'RIFF' || text(0, 4) === 'RF64') && text(8, 4) === 'WAVE') return 'wav'
  if (text(0, 4) === 'fLaC') return 'flac'
  if (text(0, 4) === 'OggS') return text(28, 8) === 'OpusHead' ? 'ogg-opus' : text(29, 6) === 'vorbis' ? 'ogg-vorbis' : 'unknown'
  if (text(0, 4) === 'FORM' && text(8, 3) === 'AIF') return 'aiff'
  if (text(4, 4) === 'ftyp') return 'mp4'
  if (head[0] === 0x1a && head[1] === 0x45 && head[2] === 0xdf && head[3] === 0xa3) return 'webm'
  if (text(0, 3) === 'ID3') return 'mp3'
  if (isAdts(head)) return 'adts'
  return findMp3Frame(head, 0) === null ? 'unknown' : 'mp3'
}

/** Two AAC frames after one another. @see ISO/IEC 13818-7, 6.2 (ADTS). */
function isAdts(bytes: Uint8Array): boolean {
  const sync = (at: number) => bytes[at] === 0xff && (bytes[at + 1] & 0xf6) === 0xf0
  return sync(0) && sync(((bytes[3] & 3) << 11) | (bytes[4] << 3) | (bytes[5] >> 5))
}

export interface Mp3Frame {
  offset: number
  sampleRateHz: number
  channels: number
  frameBytes: number
  samplesPerFrame: number
}

const BITRATES_V1 = [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320]
const BITRATES_V2 = [0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160]
const RATES: Record<number, number[]> = { 3: [44_100, 48_000, 32_000], 2: [22_050, 24_000, 16_000], 0: [11_025, 12_000, 8_000] }

/** The first layer III frame that is followed by another; text and noise do not hold two. @see ISO/IEC 11172-3 and 13818-3. */
export function findMp3Frame(bytes: Uint8Array, from: number): Mp3Frame | null {
  for (let at = from; at + 4 <= bytes.length; at++) {
    const frame = readMp3Header(bytes, at)
    if (!frame) continue
    const next = at + frame.frameBytes
    const follows = next + 4 <= bytes.length ? readMp3Header(bytes, next) : null
    if (follows && follows.sampleRateHz === frame.sampleRateHz) return frame
  }
  return null
}

function readMp3Header(bytes: Uint8Array, at: number): Mp3Frame | null {
  if (bytes[at] !== 0xff || (bytes[at + 1] & 0xe0) !== 0xe0) return null
  const version = (bytes[at + 1] >> 3) & 3
  const layer = (bytes[at + 1] >> 1) & 3
  const bitrateIndex = bytes[at + 2] >> 4
  const rateIndex = (bytes[at + 2] >> 2) & 3
  if (version === 1 || layer !== 1 || bitrateIndex === 0 || bitrateIndex === 15 || rateIndex === 3) return null
  const first = version === 3
  const bitrate = (first ? BITRATES_V1 : BITRATES_V2)[bitrateIndex] * 1_000
  const sampleRateHz = RATES[version][rateIndex]
  const padding = (bytes[at + 2] >> 1) & 1
  const samplesPerFrame = first ? 1_152 : 576
  return {
    offset: at,
    sampleRateHz,
    channels: bytes[at + 3] >> 6 === 3 ? 1 : 2,
    frameBytes: Math.floor((samplesPerFrame / 8) * (bitrate / sampleRateHz)) + padding,
    samplesPerFrame,
  }
}

/** How many frames a Xing or Info header inside the first frame promises; null without one. */
export function xingFrameCount(bytes: Uint8Array, frame: Mp3Frame): number | null {
  const first = frame.samplesPerFrame === 1_152
  const side = first ? (frame.channels === 1 ? 17 : 32) : frame.channels === 1 ? 9 : 17
  const at = frame.offset + 4 + side
  const tag = String.fromCharCode(...bytes.subarray(at, at + 4))
  if (tag !== 'Xing' && tag !== 'Info') return null
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  return at + 12 <= bytes.length && (view.getUint32(at + 4) & 1) !== 0 ? view.getUint32(at + 8) : null
}
