/** The key of a beat. */
import { keyEvidence } from './key-evidence'
import { TONICS, type Key, type Mode, type ModeColour } from './key-names'
import { softmax, unpackModel } from './model'
import type { PitchFrames } from './pitches'
import { KEY_WEIGHTS, TEMPERATURES } from './weights'

export interface KeyReading {
  key: Key
  colour: ModeColour | null
  /** 0..1; over all 24 keys they sum to 1. */
  confidence: number
}

export interface KeyAnalysis {
  /** Best first, three; empty if no pitch was found. */
  readings: KeyReading[]
  /** How far the beat's tuning lies from A = 440 Hz, -50..50; 0 if nothing was found. */
  tuningCents: number
  /** Weight of each pitch class from C up, summing to 1; zeros if nothing was found. */
  chroma: number[]
}

/** Peaks that agree on no tuning are no music: noise reads below, the most drum-laden of our composed beats above. */
const AGREEMENT_FLOOR = 0.12

const model = unpackModel(KEY_WEIGHTS)

export function findKey(pitches: PitchFrames): KeyAnalysis {
  const chroma = meanChroma(pitches)
  if (chroma.every(value => value === 0) || pitches.tuningAgreement < AGREEMENT_FLOOR) return { readings: [], tuningCents: 0, chroma: new Array<number>(12).fill(0) }
  const scores = keyEvidence(pitches, null).flatMap(row => [...model.score(row)])
  const readings = softmax(scores, TEMPERATURES.key)
    .map((confidence, i): KeyReading => {
      const key: Key = { tonic: TONICS[i >> 1], mode: i % 2 === 0 ? 'major' : 'minor' }
      return { key, colour: colourOf(chroma, i >> 1, key.mode), confidence }
    })
    .sort((a, b) => b.confidence - a.confidence)
    .slice(0, 3)
  return { readings, tuningCents: pitches.tuningCents, chroma }
}

function meanChroma({ treble, bass }: PitchFrames): number[] {
  const sums = new Array<number>(12).fill(0)
  for (let i = 0; i < treble.length; i++) sums[i % 12] += treble[i] + bass[i]
  const total = sums.reduce((a, b) => a + b, 0)
  return total > 1e-9 ? sums.map(sum => sum / total) : sums.fill(0)
}

/** How much more the altered degree must sound than the plain one. */
const COLOUR_RATIO = 1.5
/** Share of all notes below which an altered degree is chance. */
const COLOUR_FLOOR = 0.05

function colourOf(chroma: number[], tonic: number, mode: Mode): ModeColour | null {
  const degree = (semitones: number) => chroma[(tonic + semitones) % 12]
  const instead = (altered: number, plain: number) => degree(altered) > COLOUR_FLOOR && degree(altered) > COLOUR_RATIO * degree(plain)
  if (mode === 'major') return instead(10, 11) ? 'mixolydian' : instead(6, 5) ? 'lydian' : null
  if (instead(1, 2)) return 'phrygian'
  return instead(11, 10) ? 'harmonic minor' : instead(9, 8) ? 'dorian' : null
}
