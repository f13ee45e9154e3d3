/** Files on disk as byte sources, and what the importer makes of them. */
import { open } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { Worker } from 'node:worker_threads'
import type { Planar } from '../src/core/audio/frames'
import type { ByteSource } from '../src/core/files/byte-source'
import type { FromDecodeWorker } from './decode-worker'

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

/** A file that gives nothing for so long is given up. */
const MOST_SILENT_MILLISECONDS = 4_500

/** Kept for the next file as long as it answers; it does not keep the command from ending. */
let worker: Worker | null = null

/** A whole file at 48 kHz; of one cut short, what is there, with a warning. A file that a decoder hangs or breaks on has an error of its own. */
export async function loadSound(path: string): Promise<LoadedSound> {
  const answer = await decode(path)
  if (answer.kind === 'stuck') return { ok: false, error: 'not a sound file that can be read: it gave nothing for five seconds' }
  if (answer.kind === 'broken')
    return { ok: false, error: `not a sound file that can be read: the decoder gave up on it${answer.detail ? ` (${answer.detail})` : ''}` }
  if (answer.kind === 'failed') return { ok: false, error: `cannot be read: ${answer.detail}` }
  const { result, planes } = answer
  if (result.kind === 'refused') return { ok: false, error: REFUSALS[result.reason] }
  if (result.kind === 'cancelled') return { ok: false, error: 'cancelled' }
  const { frames, silencedSamples } = result.sound
  const warnings = [
    result.cutShort && `the file is cut short: ${(frames / 48_000).toFixed(1)} s are there`,
    silencedSamples > 0 && `${silencedSamples} samples were no numbers and are silent`,
  ].filter(entry => typeof entry === 'string')
  return { ok: true, planes, warning: warnings.join('; ') || null }
}

/** Of the built command line: all of it lies in one folder. */
const DECODE_WORKER = join(dirname(fileURLToPath(import.meta.url)), 'decode-worker.js')

type Answer = Exclude<FromDecodeWorker, { kind: 'going' }> | { kind: 'stuck' } | { kind: 'broken'; detail: string }

async function decode(path: string): Promise<Answer> {
  const busy = (worker ??= new Worker(DECODE_WORKER, { stdout: true, stderr: true }))
  busy.ref()
  const answer = await new Promise<Answer>(resolve => {
    let timer: NodeJS.Timeout
    const wait = () => {
      clearTimeout(timer)
      timer = setTimeout(() => resolve({ kind: 'stuck' }), MOST_SILENT_MILLISECONDS)
    }
    const settle = (message: Answer) => {
      clearTimeout(timer)
      resolve(message)
    }
    busy.removeAllListeners()
    busy.on('message', (message: FromDecodeWorker) => (message.kind === 'going' ? wait() : settle(message)))
    busy.on('error', error => settle({ kind: 'broken', detail: (error as Error | undefined)?.message ?? '' }))
    busy.on('exit', () => settle({ kind: 'broken', detail: '' }))
    busy.once('online', wait)
    wait()
    busy.postMessage(path)
  })
  if (answer.kind === 'done') busy.unref()
  else {
    // Whatever state it is in: the next file gets a fresh one.
    worker = null
    busy.removeAllListeners()
    await busy.terminate()
  }
  return answer
}

const REFUSALS = {
  empty: 'there is no sound in the file',
  'not-sound': 'not a sound file that can be read',
  unsupported: 'a kind of sound file that is not supported (WAV, AIFF, MP3, FLAC, Ogg, M4A and WebM are, up to 8 channels, 8 to 192 kHz)',
  'too-long': 'longer than 20 minutes',
  'cut-short': 'the file is cut short',
} as const
