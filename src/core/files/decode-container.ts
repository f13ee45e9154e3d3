/** Sound from containers - MP4 and M4A, WebM, Ogg Opus, ADTS, the sound of a video - with the decoders the surroundings offer. */
import type { Planar } from '../audio/frames'
import type { ByteSource } from './byte-source'
import { isImportable, type OpenSoundResult } from './sound-stream'
import type { SoundFormat } from './sniff'

/**
 * In a browser WebCodecs decodes; elsewhere whatever was registered with mediabunny's `registerDecoder`.
 * Encoder delay is taken off: the container says by a first timestamp before zero how much there is.
 */
export async function openContainer(source: ByteSource, format: SoundFormat): Promise<OpenSoundResult> {
  const { ALL_FORMATS, AudioSampleSink, CustomSource, Input } = await import('mediabunny')
  const input = new Input({ source: new CustomSource({ getSize: () => source.size, read: (start, end) => source.read(start, end) }), formats: ALL_FORMATS })
  try {
    const track = await input.getPrimaryAudioTrack()
    if (!track) return { ok: false, reason: 'empty', format }
    const { sampleRate: sampleRateHz, numberOfChannels: channels } = track
    if (!isImportable(sampleRateHz, channels) || !(await track.canDecode())) return { ok: false, reason: 'unsupported', format }
    const seconds = await track.computeDuration()
    return {
      ok: true,
      sound: {
        format,
        sampleRateHz,
        channels,
        promisedFrames: Number.isFinite(seconds) ? Math.round(seconds * sampleRateHz) : null,
        async *chunks() {
          let toDrop: number | null = null
          let found = 0
          try {
            for await (const sample of new AudioSampleSink(track).samples()) {
              toDrop ??= Math.max(0, Math.round(-sample.timestamp * sampleRateHz))
              const drop = Math.min(toDrop, sample.numberOfFrames)
              toDrop -= drop
              const planes: Planar = Array.from({ length: channels }, (_, planeIndex) => {
                const plane = new Float32Array(sample.numberOfFrames)
                sample.copyTo(plane, { format: 'f32-planar', planeIndex: Math.min(planeIndex, sample.numberOfChannels - 1) })
                return drop > 0 ? plane.slice(drop) : plane
              })
              sample.close()
              found += planes[0].length
              if (planes[0].length > 0) yield { planes, fraction: seconds > 0 ? Math.min(1, found / (seconds * sampleRateHz)) : 0 }
            }
          } catch (error) {
            // What was decoded before the damage is good: it counts as cut short.
            if (found === 0) throw error
          }
        },
      },
    }
  } catch {
    return { ok: false, reason: 'not-sound', format }
  }
}
