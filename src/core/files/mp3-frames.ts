/** Frames of Layer III of MPEG-1, by their headers. @see ISO/IEC 11172-3, section 2.4.1. */

/** Of sound, in each. */
export const MP3_FRAME_FRAMES = 1_152
const BITRATES_KBPS = [0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320]
const RATES_HZ = [44_100, 48_000, 32_000]

/** Of the frame that begins there, by its header of four bytes; 0 if none does. */
export function mp3FrameBytes(bytes: Uint8Array, at: number): number {
  const kbps = BITRATES_KBPS[bytes[at + 2] >> 4]
  const rate = RATES_HZ[(bytes[at + 2] >> 2) & 3]
  if (at + 4 > bytes.length || bytes[at] !== 0xff || (bytes[at + 1] & 0xfe) !== 0xfa || !kbps || !rate) return 0
  const isPadded = ((bytes[at + 2] >> 1) & 1) === 1
  return Math.floor((144_000 * kbps) / rate) + (isPadded ? 1 : 0)
}
