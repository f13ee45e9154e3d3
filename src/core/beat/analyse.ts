/** All that is found in a beat, stage by stage. */
import { framesToSeconds, type Mono, type Planar } from '../audio/frames'
import { findChords, type ChordSpan } from './chords'
import { mixForEars } from './ear-mix'
import { findKey, type KeyAnalysis, type KeyReading } from './key'
import { measureLevel, type BeatLevel } from './level'
import { listen } from './listen'
import { findSections, type ProposedSection } from './shape'
import { beatTimes, findTempo, type TempoAnalysis, type TempoReading, type TempoWish } from './tempo'

/** Raised whenever a stage's answers change, so that stored analyses are made again. */
export const BEAT_ANALYSIS_VERSION = 7

/** What ears find. */
export interface HeardBeat {
  tempo: TempoAnalysis
  key: KeyAnalysis
  /** Both by the first reading's bars; empty without one. */
  chords: ChordSpan[]
  sections: ProposedSection[]
}

export interface BeatAnalysis extends HeardBeat {
  level: BeatLevel
}

type OnFound = (fraction: number, found?: Partial<HeardBeat>) => void

/**
 * @param mono A whole beat at 48 kHz, as `mixForEars` makes it.
 * @param onFound From 0 to 1, with what has been found so far.
 */
export function hearBeat(mono: Mono, onFound: OnFound = () => {}): HeardBeat {
  const seconds = framesToSeconds(mono.length)
  const heard = listen(mono, fraction => onFound(0.9 * fraction))
  const tempo = findTempo(heard)
  onFound(0.95, { tempo })
  const { pitches } = heard.features
  const [best] = tempo.readings
  // Chords are told apart by what is usual in the key, and the key by its chords: each is looked at twice.
  const keyByNotes = findKey(pitches)
  const chordsIn = ({ readings }: KeyAnalysis) => (best && readings.length > 0 ? chordsOf(pitches, best, seconds, readings) : [])
  const key = findKey(pitches, chordsIn(keyByNotes))
  onFound(0.97, { tempo, key })
  const chords = chordsIn(key)
  const sections = best ? findSections(heard.features, barTimes(best, seconds)) : []
  return { tempo, key, chords, sections }
}

/** The tempo and its bars alone, by a wish: a tempo that is trusted, or a range. */
export function hearTempo(mono: Mono, wish: TempoWish): TempoAnalysis {
  return findTempo(listen(mono), wish)
}

/** @param planes A whole beat at 48 kHz, one or two channels. */
export function analyseBeat(planes: Planar): BeatAnalysis {
  return { ...hearBeat(mixForEars(planes)), level: measureLevel(planes) }
}

function chordsOf(pitches: Parameters<typeof findChords>[0], reading: TempoReading, seconds: number, keys: readonly KeyReading[]): ChordSpan[] {
  const { seconds: beats, firstBeat } = beatTimes(reading, seconds)
  return findChords(pitches, [...beats, seconds], firstBeat, reading.beatsPerBar, keys)
}

/** When each bar from bar one on begins, and where the sound ends. */
function barTimes(reading: TempoReading, seconds: number): number[] {
  const { seconds: beats, firstBeat } = beatTimes(reading, seconds)
  const bars = beats.filter((_, i) => (firstBeat + i) % reading.beatsPerBar === 0 && firstBeat + i >= 0)
  const bar = (reading.beatsPerBar * 60) / reading.tempoBpm
  // A tail shorter than half a bar is no bar.
  return seconds - bars[bars.length - 1] < bar / 2 ? bars : [...bars, seconds]
}
