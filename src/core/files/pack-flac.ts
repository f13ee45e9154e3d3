/** A sound of whole numbers as FLAC, which gives back every sample, in about half the bytes. */
import { SAMPLE_RATE_HZ, type Planar } from '../audio/frames'
import { joinPlanes } from '../mix/render-offline'
import { registerEncoderOf, sampleOf } from './register-encoders'

/** Pushed at once: smaller pieces are mostly overhead. */
const PIECE_FRAMES = 48_000
/** The encoder hands over a whole file: longer sounds are left as they are. */
export const MOST_PACKED_FRAMES = 15 * 60 * SAMPLE_RATE_HZ

/** @param chunks At 48 kHz, exact in 24 bits. */
export async function packFlac(chunks: AsyncIterable<Planar> | Iterable<Planar>): Promise<Uint8Array<ArrayBuffer>> {
  await registerEncoderOf('flac')
  const { AudioSample, AudioSampleSource, BufferTarget, FlacOutputFormat, Output } = await import('mediabunny')
  const target = new BufferTarget()
  const output = new Output({ format: new FlacOutputFormat(), target })
  const source = new AudioSampleSource({ codec: 'flac' })
  output.addAudioTrack(source)
  await output.start()
  let held: Planar[] = []
  let heldFrames = 0
  let frames = 0
  const flush = async () => {
    if (heldFrames === 0) return
    const sample = sampleOf(AudioSample, joinPlanes(held), { sampleRateHz: SAMPLE_RATE_HZ, firstFrame: frames })
    await source.add(sample)
    sample.close()
    frames += heldFrames
    held = []
    heldFrames = 0
  }
  for await (const planes of chunks) {
    held.push(planes)
    heldFrames += planes[0].length
    if (heldFrames >= PIECE_FRAMES) await flush()
  }
  await flush()
  await output.finalize()
  return new Uint8Array(target.buffer!)
}
