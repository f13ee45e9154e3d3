/** A comp as a file that begins where the song does, so that it lies in place beside the beat. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { encodeSamples, encodeWavHeader } from '../files/wav'
import { bounceComp, extentOfComp } from '../mix/bounce'
import type { Played } from '../mix/pick-spans'
import type { AssetStore } from '../mix/render-offline'
import type { PrintTable } from '../prints/jobs'
import type { Song } from '../song/schema'
import { lengthOf } from '../song/select'

/** 32-bit float WAV of one channel, piece by piece; nothing for an empty comp. What is sung before the song begins is left out. */
export async function* compAsWav(
  song: Song,
  played: Played,
  sounds: { store: AssetStore; prints: PrintTable },
  onProgress: (fraction: number) => void,
): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  const extent = extentOfComp(song, played)
  if (!extent) return
  yield encodeWavHeader({ frames: extent.endFrame, channels: 1, sampleRateHz: SAMPLE_RATE_HZ, encoding: 'float32' })
  yield encodeSamples([new Float32Array(Math.max(0, extent.startFrame))], 'float32')
  const before = Math.max(0, -extent.startFrame)
  let at = 0
  for await (const piece of bounceComp(song, played, sounds)) {
    yield encodeSamples([piece.subarray(Math.min(piece.length, Math.max(0, before - at)))], 'float32')
    at += piece.length
    onProgress(at / lengthOf(extent))
  }
}
