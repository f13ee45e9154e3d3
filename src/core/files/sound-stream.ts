/** A sound file that was opened: decoded piece by piece, at its own rate. */
import type { Planar } from '../audio/frames'
import type { SoundFormat } from './sniff'

export interface SoundStream {
  format: SoundFormat
  sampleRateHz: number
  channels: number
  /** What the file promises; null if it does not say. */
  promisedFrames: number | null
  /** The sound in order; `fraction` is how much of the file has been used. */
  chunks(): AsyncGenerator<{ planes: Planar; fraction: number }>
}

export type OpenSoundResult = { ok: true; sound: SoundStream } | { ok: false; reason: 'empty' | 'not-sound' | 'unsupported'; format: SoundFormat }

const RATES_HZ = { least: 8_000, most: 192_000 }
const MOST_CHANNELS = 8

/** Whether sound of this rate and so many channels is imported. */
export function isImportable(sampleRateHz: number, channels: number): boolean {
  return sampleRateHz >= RATES_HZ.least && sampleRateHz <= RATES_HZ.most && channels >= 1 && channels <= MOST_CHANNELS
}
