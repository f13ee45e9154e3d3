/** All that is found in a beat, stage by stage. */
import { mixToMono, type Planar } from '../audio/frames'
import { measureLoudness, type Loudness } from '../loudness/loudness'
import { findKey, type KeyAnalysis } from './key'
import { onsetStrength } from './onset'
import { findTempo, type TempoAnalysis } from './tempo'

/** Raised whenever a stage's answers change, so that stored analyses are made again. */
export const BEAT_ANALYSIS_VERSION = 1

export interface BeatAnalysis {
  tempo: TempoAnalysis
  key: KeyAnalysis
  loudness: Loudness
}

/** @param planes A whole beat at 48 kHz, one or two channels. `onProgress` runs from 0 to 1. */
export function analyseBeat(planes: Planar, onProgress: (fraction: number) => void = () => {}): BeatAnalysis {
  const mono = mixToMono(planes)
  const onsets = onsetStrength(mono, fraction => onProgress(0.4 * fraction))
  const tempo = findTempo(onsets)
  onProgress(0.55)
  const key = findKey(mono, fraction => onProgress(0.55 + 0.3 * fraction))
  onProgress(0.85)
  const loudness = measureLoudness(planes)
  onProgress(1)
  return { tempo, key, loudness }
}
