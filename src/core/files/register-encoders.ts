/** Encoders as WebAssembly, made known to mediabunny when they are first asked for: they are half a megabyte each; and what they are given. */
import type { AudioSample } from 'mediabunny'
import type { Planar } from '../audio/frames'

const registered = new Set<string>()

/** Ours before a browser's own: one delay, one sound, everywhere. Of Opus the browser's, or whoever registered one. */
export async function registerEncoderOf(kind: 'flac' | 'mp3' | 'aac' | 'opus'): Promise<void> {
  if (registered.has(kind)) return
  registered.add(kind)
  if (kind === 'mp3') (await import('./mp3-encoder')).registerMp3Encoder()
  if (kind === 'flac') (await import('@mediabunny/flac-encoder')).registerFlacEncoder()
  if (kind === 'aac') (await import('@mediabunny/aac-encoder')).registerAacEncoder()
}

/** Planes as a sample that an encoder takes; the caller's planes are free again. @param firstFrame May be negative. */
export function sampleOf(Sample: typeof AudioSample, planes: Planar, { sampleRateHz, firstFrame }: { sampleRateHz: number; firstFrame: number }): AudioSample {
  const frames = planes[0].length
  const data = new Float32Array(planes.length * frames)
  planes.forEach((plane, c) => data.set(plane, c * frames))
  const layout = { format: 'f32-planar', numberOfChannels: planes.length, sampleRate: sampleRateHz } as const
  return new Sample({ data, ...layout, timestamp: firstFrame / sampleRateHz })
}
