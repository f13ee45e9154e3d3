/** What tells a player how much of an MP3 is not the sound: encoders begin early and end on a whole frame. */
import { MP3_FRAME_FRAMES, mp3FrameBytes } from '../files/mp3-frames'

/** An encoder's frames begin so much before the sound; a decoder's own delay, 529, comes on top. */
const ENCODER_DELAY_FRAMES = 576
/** After the header of an MPEG-1 frame of two channels lie 32 bytes of side information, then the tag. */
const TAG_AT = 36
/** That there are a count of frames, a count of bytes, a table of contents and a quality. */
const ALL_FIELDS = 15
const TOC_ENTRIES = 100
/** In the header: 128 kbps, so that the frame has room for the tag at every rate. */
const INFO_BITRATE = 9 << 4
/** How the rate was chosen, for whom it may concern. */
const CONSTANT_RATE = 1
const VARIABLE_RATE = 4
/** Of twelve bits. */
const MOST_PADDING_FRAMES = 4_095

/**
 * The file with an information frame at the front, by which players find their way in it and leave out what is not the sound.
 * @param bytes Layer III of MPEG-1 of two channels, from the first frame on or after an ID3 tag.
 * @param frames Of the sound that went in.
 * @see G. Bouvigne, MP3 info tag specification (revision 1); Xing's header before it.
 */
export function gapless(bytes: Uint8Array<ArrayBuffer>, frames: number, rate: 'constant' | 'variable'): Uint8Array<ArrayBuffer> {
  const first = afterId3(bytes)
  const begins = frameBegins(bytes, first)
  if (begins.length === 0) return bytes
  // The header of the first frame, without a checksum or padding.
  const header = [bytes[first], bytes[first + 1] | 1, (bytes[first + 2] & 0x0c) | INFO_BITRATE, bytes[first + 3]]
  const info = new Uint8Array(mp3FrameBytes(Uint8Array.from(header), 0))
  const view = new DataView(info.buffer)
  info.set(header)
  write(info, TAG_AT, rate === 'variable' ? 'Xing' : 'Info')
  view.setUint32(TAG_AT + 4, ALL_FIELDS)
  view.setUint32(TAG_AT + 8, begins.length)
  const length = info.length + bytes.length - first
  view.setUint32(TAG_AT + 12, length)
  // Where each hundredth of the time begins, as a 256th of the bytes.
  for (let i = 0; i < TOC_ENTRIES; i++) {
    const begin = begins[Math.floor((i * begins.length) / TOC_ENTRIES)] - first + info.length
    info[TAG_AT + 16 + i] = Math.floor((256 * begin) / length)
  }
  const rest = TAG_AT + 16 + TOC_ENTRIES + 4
  const padding = Math.max(0, Math.min(MOST_PADDING_FRAMES, begins.length * MP3_FRAME_FRAMES - ENCODER_DELAY_FRAMES - frames))
  // The encoder that these frames are from, by the name that players look for.
  write(info, rest, 'LAME3.100')
  info[rest + 9] = rate === 'variable' ? VARIABLE_RATE : CONSTANT_RATE
  info[rest + 21] = ENCODER_DELAY_FRAMES >> 4
  info[rest + 22] = ((ENCODER_DELAY_FRAMES & 0xf) << 4) | (padding >> 8)
  info[rest + 23] = padding & 0xff
  view.setUint32(rest + 28, length)
  view.setUint16(rest + 34, crc16(info.subarray(0, rest + 34)))
  const whole = new Uint8Array(first + length)
  whole.set(bytes.subarray(0, first))
  whole.set(info, first)
  whole.set(bytes.subarray(first), first + info.length)
  return whole
}

function write(bytes: Uint8Array, at: number, text: string): void {
  for (let i = 0; i < text.length; i++) bytes[at + i] = text.charCodeAt(i)
}

function afterId3(bytes: Uint8Array): number {
  if (String.fromCharCode(...bytes.subarray(0, 3)) !== 'ID3') return 0
  return 10 + ((bytes[6] << 21) | (bytes[7] << 14) | (bytes[8] << 7) | bytes[9])
}

/** Of frames that follow each other. */
function frameBegins(bytes: Uint8Array, from: number): number[] {
  const begins: number[] = []
  for (let at = from, length = 0; (length = mp3FrameBytes(bytes, at)) > 0; at += length) begins.push(at)
  return begins
}

/** CRC-16 with the polynomial 0x8005, lowest bit first. */
function crc16(bytes: Uint8Array): number {
  let crc = 0
  for (const byte of bytes) {
    crc ^= byte
    for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >> 1) ^ 0xa001 : crc >> 1
  }
  return crc
}
