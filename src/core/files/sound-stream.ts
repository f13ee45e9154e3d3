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
