/** All that is found in a beat, stage by stage. */
import { framesToSeconds, mixToMono, type Planar } from '../audio/frames'
import { findChords, type ChordSpan } from './chords'
import { findKey, type KeyAnalysis } from './key'
import { measureLevel, type BeatLevel } from './level'
import { listen } from './listen'
import { findSections, type ProposedSection } from './shape'
import { beatTimes, findTempo, type TempoAnalysis, type TempoReading, type TempoWish } from './tempo'

/** Raised whenever a stage's answers change, so that stored analyses are made again. */
export const BEAT_ANALYSIS_VERSION = 2

export interface BeatAnalysis {
  tempo: TempoAnalysis
  key: KeyAnalysis
  /** Both by the first reading's bars; empty without one. */
  chords: ChordSpan[]
  sections: ProposedSection[]
  level: BeatLevel
}

/**
 * @param planes A whole beat at 48 kHz, one or two channels.
 * @param onProgress From 0 to 1, with what has been found so far.
 */
export function analyseBeat(planes: Planar, { onProgress = () => {}, wish }: { onProgress?: (fraction: number, found?: Partial<BeatAnalysis>) => void; wish?: TempoWish } = {}): BeatAnalysis {
  const seconds = framesToSeconds(planes[0].length)
  const heard = listen(monoOf(planes), fraction => onProgress(0.7 * fraction))
  const tempo = findTempo(heard, wish)
  onProgress(0.72, { tempo })
  const key = findKey(heard.features.pitches)
  onProgress(0.75, { tempo, key })
  const [best] = tempo.readings
  const chords = best && key.readings.length > 0 ? chordsOf(heard.features.pitches, best, seconds) : []
  const sections = best ? findSections(heard.features, barTimes(best, seconds)) : []
  onProgress(0.8, { tempo, key, chords, sections })
  const level = measureLevel(planes)
  onProgress(1)
  return { tempo, key, chords, sections, level }
}

/** Where both sides cancel each other out, one side alone is listened to. */
function monoOf(planes: Planar) {
  const mono = mixToMono(planes)
  if (planes.length < 2) return mono
  const power = (values: Float32Array) => {
    let sum = 0
    for (let i = 0; i < values.length; i += 16) sum += values[i] * values[i]
    return sum
  }
  return power(mono) < 0.05 * power(planes[0]) ? planes[0] : mono
}

function chordsOf(pitches: Parameters<typeof findChords>[0], reading: TempoReading, seconds: number): ChordSpan[] {
  const { seconds: beats, firstBeat } = beatTimes(reading, seconds)
  return findChords(pitches, [...beats, seconds], firstBeat, reading.beatsPerBar)
}

/** When each bar from bar one on begins, and where the sound ends. */
function barTimes(reading: TempoReading, seconds: number): number[] {
  const { seconds: beats, firstBeat } = beatTimes(reading, seconds)
  const bars = beats.filter((_, i) => (firstBeat + i) % reading.beatsPerBar === 0 && firstBeat + i >= 0)
  const bar = (reading.beatsPerBar * 60) / reading.tempoBpm
  // A tail shorter than half a bar is no bar.
  return seconds - bars[bars.length - 1] < bar / 2 ? bars : [...bars, seconds]
}
