/** AIFF and AIFF-C, whole: they are never compressed enough to be long. */
import type { ByteSource } from './byte-source'
import { isImportable, type OpenSoundResult } from './sound-stream'

const MAX_BYTES = 1 << 30
const STEP_FRAMES = 65_536

export async function openAiff(source: ByteSource): Promise<OpenSoundResult> {
  if (source.size > MAX_BYTES) return { ok: false, reason: 'unsupported', format: 'aiff' }
  const bytes = await source.read(0, source.size)
  const { default: decode } = await import('@audio/decode-aiff')
  try {
    const { channelData, sampleRate } = decode(bytes)
    if (channelData.length === 0 || channelData[0].length === 0) return { ok: false, reason: 'empty', format: 'aiff' }
    if (!isImportable(sampleRate, channelData.length)) return { ok: false, reason: 'unsupported', format: 'aiff' }
    const frames = channelData[0].length
    return {
      ok: true,
      sound: {
        format: 'aiff',
        sampleRateHz: Math.round(sampleRate),
        channels: channelData.length,
        promisedFrames: promisedFrames(bytes),
        async *chunks() {
          for (let at = 0; at < frames; at += STEP_FRAMES)
            yield {
              planes: channelData.map(plane => new Float32Array(plane.subarray(at, at + STEP_FRAMES))),
              fraction: Math.min(1, (at + STEP_FRAMES) / frames),
            }
        },
      },
    }
  } catch {
    return { ok: false, reason: 'not-sound', format: 'aiff' }
  }
}

/** numSampleFrames of the COMM chunk. @see Apple, Audio Interchange File Format 1.3 (1989). */
function promisedFrames(bytes: Uint8Array): number | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  for (let at = 12; at + 14 <= bytes.length;) {
    const size = view.getUint32(at + 4)
    if (view.getUint32(at) === 0x434f4d4d) return view.getUint32(at + 10)
    at += 8 + size + (size & 1)
  }
  return null
}
