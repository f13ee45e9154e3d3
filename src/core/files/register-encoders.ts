/** Encoders as WebAssembly, made known to mediabunny when they are first asked for: they are half a megabyte each. */

const registered = new Set<string>()

/** Ours before a browser's own: one delay, one sound, everywhere. Of Opus the browser's, or whoever registered one. */
export async function registerEncoderOf(kind: 'flac' | 'mp3' | 'aac' | 'opus'): Promise<void> {
  if (registered.has(kind)) return
  registered.add(kind)
  if (kind === 'mp3') (await import('@mediabunny/mp3-encoder')).registerMp3Encoder()
  if (kind === 'flac') (await import('@mediabunny/flac-encoder')).registerFlacEncoder()
  if (kind === 'aac') (await import('@mediabunny/aac-encoder')).registerAacEncoder()
}
