/** What tells a player how much of an MP3 is not the sound: encoders begin early and end on a whole frame. */

/** An encoder's frames begin so much before the sound; a decoder's own delay, 529, comes on top. */
const ENCODER_DELAY_FRAMES = 576
const FRAMES_A_FRAME = 1_152
/** After the header of an MPEG-1 frame of two channels lie 32 bytes of side information, then the tag. */
const TAG_AT = 36
/** That there are a count of frames, a count of bytes, a table of contents and a quality. */
const ALL_FIELDS = 15
const TOC_ENTRIES = 100
/** The tag with all that follows it. */
const TAG_BYTES = 8 + 4 + 4 + TOC_ENTRIES + 4 + 36
const BITRATES_KBPS = [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320]
const RATES_HZ = [44_100, 48_000, 32_000]

/**
 * The file with an information frame of its own at the front, in the place of one that has no room for what to leave out at both ends.
 * @param bytes Layer III of MPEG-1, of a constant rate and two channels, from the first frame on or after an ID3 tag.
 * @param frames Of the sound that went in.
 * @see G. Bouvigne, MP3 info tag specification (revision 1); Xing's header before it.
 */
export function gapless(bytes: Uint8Array<ArrayBuffer>, frames: number): Uint8Array<ArrayBuffer> {
  const first = afterId3(bytes)
  const name = String.fromCharCode(...bytes.subarray(first + TAG_AT, first + TAG_AT + 4))
  const audio = name === 'Xing' || name === 'Info' ? first + frameBytes(bytes, first) : first
  const audioFrames = countFrames(bytes, audio)
  const infoBytes = frameBytes(bytes, audio, false)
  if (infoBytes < TAG_AT + TAG_BYTES) return bytes
  const info = new Uint8Array(infoBytes)
  const view = new DataView(info.buffer)
  // The header of the first frame, without its padding and without a checksum.
  info.set([bytes[audio], bytes[audio + 1] | 1, bytes[audio + 2] & ~2, bytes[audio + 3]])
  write(info, TAG_AT, 'Info')
  view.setUint32(TAG_AT + 4, ALL_FIELDS)
  view.setUint32(TAG_AT + 8, audioFrames)
  const length = infoBytes + bytes.length - audio
  view.setUint32(TAG_AT + 12, length)
  // At a constant rate a hundredth of the time is a hundredth of the bytes.
  for (let i = 0; i < TOC_ENTRIES; i++) info[TAG_AT + 16 + i] = Math.floor((256 * i) / TOC_ENTRIES)
  const rest = TAG_AT + 16 + TOC_ENTRIES + 4
  const padding = Math.max(0, Math.min(MOST_PADDING_FRAMES, audioFrames * FRAMES_A_FRAME - ENCODER_DELAY_FRAMES - frames))
  // The encoder that these frames are from, by the name that players look for.
  write(info, rest, 'LAME3.100')
  info[rest + 9] = CONSTANT_RATE
  info[rest + 21] = ENCODER_DELAY_FRAMES >> 4
  info[rest + 22] = ((ENCODER_DELAY_FRAMES & 0xf) << 4) | (padding >> 8)
  info[rest + 23] = padding & 0xff
  view.setUint32(rest + 28, length)
  view.setUint16(rest + 34, crc16(info.subarray(0, rest + 34)))
  const whole = new Uint8Array(first + length)
  whole.set(bytes.subarray(0, first))
  whole.set(info, first)
  whole.set(bytes.subarray(audio), first + infoBytes)
  return whole
}

const CONSTANT_RATE = 1
/** Of twelve bits. */
const MOST_PADDING_FRAMES = 4_095

function write(bytes: Uint8Array, at: number, text: string): void {
  for (let i = 0; i < text.length; i++) bytes[at + i] = text.charCodeAt(i)
}

/** Of the frame that begins there; 0 if none does. */
function frameBytes(bytes: Uint8Array, at: number, isPadded = ((bytes[at + 2] >> 1) & 1) === 1): number {
  const kbps = BITRATES_KBPS[bytes[at + 2] >> 4]
  const rate = RATES_HZ[(bytes[at + 2] >> 2) & 3]
  if (bytes[at] !== 0xff || (bytes[at + 1] & 0xfe) !== 0xfa || !kbps || !rate) return 0
  return Math.floor((144_000 * kbps) / rate) + (isPadded ? 1 : 0)
}

function afterId3(bytes: Uint8Array): number {
  if (String.fromCharCode(...bytes.subarray(0, 3)) !== 'ID3') return 0
  return 10 + ((bytes[6] << 21) | (bytes[7] << 14) | (bytes[8] << 7) | bytes[9])
}

/** Frames that follow each other. */
function countFrames(bytes: Uint8Array, from: number): number {
  let count = 0
  for (let at = from, length = 0; at + 4 <= bytes.length && (length = frameBytes(bytes, at)) > 0; at += length) count++
  return count
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
