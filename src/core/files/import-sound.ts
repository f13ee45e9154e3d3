/** Importing a sound file: decoded, resampled once to 48 kHz, handed on in chunks. */
import { SAMPLE_RATE_HZ, type Planar } from '../audio/frames'
import { mixDown } from '../audio/mix-down'
import { Resampler } from '../audio/resample'
import { silenceUnsound } from '../audio/unsound'
import { CHUNK_FRAMES } from '../mix/chunk-window'
import type { OpenSoundResult } from './sound-stream'
import type { SoundFormat } from './sniff'

const MAX_IMPORT_SECONDS = 20 * 60

export interface ImportedSound {
  format: SoundFormat
  /** The file's own rate. */
  sampleRateHz: number
  channels: number
  /** How many channels the file had, if more than two. */
  mixedDownFrom: number | null
  /** Length at 48 kHz. */
  frames: number
  /** Samples that were no numbers, or beyond any level: silence stands for them. */
  silencedSamples: number
}

export type ImportSoundResult =
  | { kind: 'imported'; sound: ImportedSound; cutShort: { promisedSeconds: number | null } | null }
  | { kind: 'refused'; reason: 'empty' | 'not-sound' | 'unsupported' | 'too-long'; format: SoundFormat }
  | { kind: 'refused'; reason: 'cut-short'; format: SoundFormat; foundSeconds: number; promisedSeconds: number | null }
  | { kind: 'cancelled' }

/** More than this many missing seconds make a file cut short. */
const MISSING_TOLERANCE_SECONDS = 0.2

/**
 * @param opened What `openSound` gave, here or in another worker.
 * @param sink Called in order with chunks of CHUNK_FRAMES at 48 kHz; the last is shorter. What it was given before a refusal is the caller's to drop.
 * @param acceptCutShort Import what is there of a file that ends too early, instead of refusing it.
 * @throws What the sink throws, and StuckError if the decoder is stuck; a decoder that fails is a refusal.
 */
export async function importSound(
  opened: OpenSoundResult,
  sink: (planes: Planar) => Promise<void> | void,
  options: { onProgress?: (fraction: number) => void; signal?: AbortSignal; acceptCutShort?: boolean } = {},
): Promise<ImportSoundResult> {
  if (!opened.ok) return { kind: 'refused', reason: opened.reason, format: opened.format }
  const { sound } = opened
  const { format, sampleRateHz } = sound
  const channels = sound.channels === 1 ? 1 : 2
  const refuse = (reason: 'empty' | 'not-sound' | 'too-long'): ImportSoundResult => ({ kind: 'refused', reason, format })
  if (sound.promisedFrames !== null && Number.isFinite(sound.promisedFrames) && sound.promisedFrames / sampleRateHz > MAX_IMPORT_SECONDS)
    return refuse('too-long')
  const chunker = new Chunker(channels, sink)
  const resampler = sampleRateHz === SAMPLE_RATE_HZ ? null : new Resampler(sampleRateHz, SAMPLE_RATE_HZ, channels)
  let framesRead = 0
  let silencedSamples = 0
  let decoding = true
  try {
    for await (const { planes: all, fraction } of sound.chunks()) {
      if (options.signal?.aborted) return { kind: 'cancelled' }
      for (const plane of all) silencedSamples += silenceUnsound(plane)
      const planes = mixDown(all)
      framesRead += planes[0].length
      if (framesRead / sampleRateHz > MAX_IMPORT_SECONDS) return refuse('too-long')
      decoding = false
      await chunker.push(resampler?.push(planes) ?? planes)
      decoding = true
      options.onProgress?.(fraction)
    }
  } catch (error) {
    // The sink, or we ourselves, failed: that says nothing of the file.
    if (!decoding || error instanceof StuckError) throw error
    // A decoder that gives up on the bytes: nothing of the file can be trusted.
    return refuse('not-sound')
  }
  if (resampler) await chunker.push(resampler.flush())
  await chunker.finish()
  if (framesRead === 0) return refuse(format === 'mp3' ? 'not-sound' : 'empty')
  const foundSeconds = framesRead / sampleRateHz
  const promised = sound.promisedFrames
  const missing = promised !== null && promised / sampleRateHz - foundSeconds > MISSING_TOLERANCE_SECONDS
  const promisedSeconds = promised !== null && Number.isFinite(promised) ? promised / sampleRateHz : null
  if (missing && !options.acceptCutShort) return { kind: 'refused', reason: 'cut-short', format, foundSeconds, promisedSeconds }
  return {
    kind: 'imported',
    sound: { format, sampleRateHz, channels, mixedDownFrom: sound.channels > 2 ? sound.channels : null, frames: chunker.frames, silencedSamples },
    cutShort: missing ? { promisedSeconds } : null,
  }
}

/** A decoder gave nothing for too long. */
export class StuckError extends Error {
  constructor() {
    super('the decoder gave nothing for too long')
    this.name = 'StuckError'
  }
}

/** Gathers pieces of any length into chunks of equal length. */
class Chunker {
  frames = 0
  private pending: Planar
  private filled = 0

  constructor(
    private readonly channels: number,
    private readonly sink: (planes: Planar) => Promise<void> | void,
  ) {
    this.pending = this.fresh()
  }

  async push(planes: Planar): Promise<void> {
    const length = planes[0].length
    for (let at = 0; at < length;) {
      const count = Math.min(length - at, CHUNK_FRAMES - this.filled)
      for (let c = 0; c < this.channels; c++) this.pending[c].set(planes[c].subarray(at, at + count), this.filled)
      this.filled += count
      at += count
      if (this.filled === CHUNK_FRAMES) await this.emit()
    }
  }

  async finish(): Promise<void> {
    if (this.filled > 0) await this.emit()
  }

  private async emit(): Promise<void> {
    const chunk = this.filled === CHUNK_FRAMES ? this.pending : this.pending.map(plane => plane.slice(0, this.filled))
    this.frames += this.filled
    this.pending = this.fresh()
    this.filled = 0
    await this.sink(chunk)
  }

  private fresh(): Planar {
    return Array.from({ length: this.channels }, () => new Float32Array(CHUNK_FRAMES))
  }
}
