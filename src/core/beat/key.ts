/** The key of a beat. */
import type { ChordSpan } from './chords'
import { weighKeysByChords } from './key-chords'
import { keyEvidence, sharesOf } from './key-evidence'
import { TONICS, type Key, type Mode, type ModeColour } from './key-names'
import { softmax, unpackModel } from './model'
import type { PitchFrames } from './pitches'
import { KEY_PROFILES, KEY_WEIGHTS, TEMPERATURES } from './weights'

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

/** Shorter sounds have no sure key. */
const SURE_SECONDS = 8

const model = unpackModel(KEY_WEIGHTS)

/** How much what the chords say counts beside what the notes say, and how sure both together are; fitted on 280 composed beats. */
const CHORDS_WEIGHT = 2
const CHORDS_TEMPERATURE = 1.2

/** @param chords As heard in it, where they are known. */
export function findKey(pitches: PitchFrames, chords: readonly ChordSpan[] = []): KeyAnalysis {
  const chroma = meanChroma(pitches)
  if (chroma.every(value => value === 0) || pitches.tuningAgreement < AGREEMENT_FLOOR)
    return { readings: [], tuningCents: 0, chroma: new Array<number>(12).fill(0) }
  const evidence = keyEvidence(pitches, null)
  const byNotes = evidence.flatMap(row => [...model.score(row)])
  const byChords = weighKeysByChords(chords)
  const scores = byChords ? byNotes.map((score, i) => score + CHORDS_WEIGHT * byChords[i]) : byNotes
  // A few chords fit many keys: of a short sound none is sure.
  const seconds = (pitches.treble.length / 12) * pitches.hopSeconds
  const trust = seconds < SURE_SECONDS ? (0.5 * seconds) / SURE_SECONDS : 1
  const readings = softmax(scores, byChords ? CHORDS_TEMPERATURE : TEMPERATURES.key)
    .map((share, i): KeyReading => {
      const confidence = trust * share + (1 - trust) / 24
      const key: Key = { tonic: TONICS[i >> 1], mode: i % 2 === 0 ? 'major' : 'minor' }
      return { key, colour: colourOf(evidence[i >> 1], key.mode), confidence }
    })
    .sort((a, b) => b.confidence - a.confidence)
    .slice(0, 3)
  return { readings, tuningCents: pitches.tuningCents, chroma }
}

/** How much each pitch class sounds in beats of a key as a rule, from C up, summing to 1: the mean of those the ears were fitted on. */
export function profileOf({ tonic, mode }: Key): number[] {
  const from = TONICS.indexOf(tonic)
  return Array.from({ length: 12 }, (_, pitchClass) => KEY_PROFILES[mode][(pitchClass - from + 12) % 12])
}

function meanChroma({ treble, bass }: PitchFrames): number[] {
  const sums = new Array<number>(12).fill(0)
  for (let i = 0; i < treble.length; i++) sums[i % 12] += treble[i] + bass[i]
  const total = sums.reduce((a, b) => a + b, 0)
  return total > 1e-9 ? sums.map(sum => sum / total) : sums.fill(0)
}

/**
 * Shares above which a note or a chord is no chance; on composed beats nine in ten of the colours that are there are then named, and
 * one in twenty that is not.
 */
const NOTE_FLOOR = 0.03
const CHORD_FLOOR = 0.06

/** A colour is there where its note sounds and the major chord that it makes. @param evidence The row of the tonic. */
function colourOf(evidence: Float32Array, mode: Mode): ModeColour | null {
  const { treble, major } = sharesOf(evidence)
  const isThere = (note: number, chord: number) => treble[note] > NOTE_FLOOR && major[chord] > CHORD_FLOOR
  if (mode === 'major') return isThere(10, 10) && treble[10] > treble[11] ? 'mixolydian' : isThere(6, 2) && treble[6] > treble[5] ? 'lydian' : null
  if (isThere(1, 1)) return 'phrygian'
  return isThere(11, 7) ? 'harmonic minor' : isThere(9, 5) && treble[9] > treble[8] ? 'dorian' : null
}
