/** Files on disk as byte sources, and what the importer makes of them. */
import { open } from 'node:fs/promises'
import type { Planar } from '../src/core/audio/frames'
import type { ByteSource } from '../src/core/files/byte-source'
import { openSound } from '../src/core/files/decode'
import { importSound, type ImportSoundResult } from '../src/core/files/import-sound'
import { joinPlanes } from '../src/core/mix/render-offline'
import { registerNodeDecoders } from './node-decoders'

registerNodeDecoders()

export async function withFile<T>(path: string, work: (source: ByteSource) => Promise<T>): Promise<T> {
  const handle = await open(path, 'r')
  try {
    const { size } = await handle.stat()
    return await work({
      size,
      async read(start, end) {
        const bytes = new Uint8Array(Math.max(0, Math.min(end, size) - start))
        const { bytesRead } = await handle.read(bytes, 0, bytes.length, start)
        return bytes.subarray(0, bytesRead)
      },
    })
  } finally {
    await handle.close()
  }
}

export type LoadedSound = { ok: true; planes: Planar; warning: string | null } | { ok: false; error: string }

/** A whole file at 48 kHz; of one cut short, what is there, with a warning. */
export async function loadSound(path: string): Promise<LoadedSound> {
  const pieces: Planar[] = []
  let result: ImportSoundResult
  try {
    result = await withFile(path, async source => importSound(await openSound(source), planes => void pieces.push(planes), { acceptCutShort: true }))
  } catch (error) {
    return { ok: false, error: `cannot be read: ${(error as Error).message}` }
  }
  if (result.kind === 'imported') {
    const warning = result.cutShort ? `the file is cut short: ${(result.sound.frames / 48_000).toFixed(1)} s are there` : null
    return { ok: true, planes: joinPlanes(pieces), warning }
  }
  return { ok: false, error: result.kind === 'cancelled' ? 'cancelled' : REFUSALS[result.reason] }
}

const REFUSALS = {
  empty: 'there is no sound in the file',
  'not-sound': 'not a sound file that can be read',
  unsupported: 'a kind of sound file that is not supported (WAV, AIFF, MP3, FLAC, Ogg, M4A and WebM are, up to 8 channels, 8 to 192 kHz)',
  'too-long': 'longer than 20 minutes',
  'cut-short': 'the file is cut short',
} as const
