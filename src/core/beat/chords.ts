/** Which chord sounds, by half bars. */
import type { Mono } from '../audio/frames'
import { CHORD_QUALITIES, INTERVALS, type ChordName } from './chord-names'
import { CHORD_WEIGHTS, STRANGE_NOTE_COST } from './chord-weights'
import type { KeyReading } from './key'
import { scaleSemitones, TONICS } from './key-names'
import type { PitchFrames } from './pitches'

export interface ChordSpan {
  /** Counted from bar one. */
  startBeat: number
  beatCount: number
  /** Null where no chord sounds. */
  chord: ChordName | null
  /** 0..1 */
  confidence: number
}

/** What a change of chord costs, and one inside a bar, beside the log odds of the chords; set on composed beats. */
const CHANGE_COST = 1
const CHANGE_IN_BAR_COST = 2
/** Less pitched energy than this share of the loudest quarter of spans is no chord. */
const SOUNDING_SHARE = 0.04

const STATES = CHORD_QUALITIES.flatMap(quality => Array.from({ length: 12 }, (_, root) => ({ root, quality })))

/**
 * @param beatSeconds When each beat begins, from the first one counted.
 * @param firstBeat Which beat, counted from bar one, the first of them is.
 * @param keys What is strange in each counts as far as it is believed.
 * @see For templates that are fitted, and Viterbi's path over them: T. Fujishima, ICMC 1999; A. Sheh and D. Ellis, ISMIR 2003.
 */
export function findChords(pitches: PitchFrames, beatSeconds: number[], firstBeat: number, beatsPerBar: number, keys: readonly KeyReading[]): ChordSpan[] {
  const spans = halfBars(beatSeconds, firstBeat, beatsPerBar)
  const evidence = chordEvidence(pitches, spans)
  const energies = evidence.map(({ energy }) => energy)
  const loud = [...energies].sort((a, b) => b - a)[Math.floor(energies.length / 4)] ?? 0
  const strangeness = STATES.map(state => STRANGE_NOTE_COST * keys.reduce((total, reading) => total + reading.confidence * strangeNotes(state, reading), 0))
  const fits = evidence.map(pitches => STATES.map((state, i) => fitOf(pitches, state) - strangeness[i]))
  const path = bestPath(fits, spans)
  return joinSame(
    spans.map((span, i) => {
      const best = fits[i][path[i]]
      const odds = fits[i].map(fit => Math.exp(fit - best))
      return {
        startBeat: span.startBeat,
        beatCount: span.beatCount,
        chord: energies[i] > loud * SOUNDING_SHARE ? STATES[path[i]] : null,
        confidence: 1 / sum(odds),
      }
    }),
  )
}

/** How many notes of a chord are not in the key or its colour; in minor the raised seventh is no stranger. */
function strangeNotes({ root, quality }: (typeof STATES)[number], { key: { tonic, mode }, colour }: KeyReading): number {
  const scale = new Set([...scaleSemitones(mode), ...scaleSemitones(mode, colour), ...(mode === 'minor' ? [11] : [])])
  return INTERVALS[quality].filter(interval => !scale.has((root + interval - TONICS.indexOf(tonic) + 24) % 12)).length
}

export interface HalfBar {
  startBeat: number
  beatCount: number
  from: number
  to: number
  beginsBar: boolean
}

/** Whole bars where a bar has three or two beats. */
export function halfBars(beatSeconds: number[], firstBeat: number, beatsPerBar: number): HalfBar[] {
  const step = beatsPerBar % 2 === 0 && beatsPerBar > 2 ? beatsPerBar / 2 : beatsPerBar
  const spans: HalfBar[] = []
  for (let beat = firstBeat + (((-firstBeat % step) + step) % step); beat - firstBeat + 1 < beatSeconds.length; beat += step) {
    const at = beat - firstBeat
    const end = Math.min(at + step, beatSeconds.length - 1)
    spans.push({ startBeat: beat, beatCount: end - at, from: beatSeconds[at], to: beatSeconds[end], beginsBar: beat % beatsPerBar === 0 })
  }
  return spans
}

export interface ChordEvidence {
  /** Twelve weights from C up; their length is 1. */
  treble: Float64Array
  /** Twelve shares from C up. */
  bass: Float64Array
  energy: number
}

/** What sounds in each span. */
export function chordEvidence({ treble, bass, hopSeconds }: PitchFrames, spans: readonly Pick<HalfBar, 'from' | 'to'>[]): ChordEvidence[] {
  return spans.map(({ from, to }) => {
    const [above, below] = [meanOver(treble, hopSeconds, from, to), meanOver(bass, hopSeconds, from, to)]
    const [length, lowest] = [Math.hypot(...above) + 1e-9, sum(below) + 1e-9]
    return { treble: above.map(value => value / length), bass: below.map(value => value / lowest), energy: sum(above) + sum(below) }
  })
}

/** Frames are windows of 0.7 s: those centred near the edges hear the neighbours as well and count less. */
function meanOver(chroma: Mono, hopSeconds: number, from: number, to: number): Float64Array {
  const mean = new Float64Array(12)
  const frames = chroma.length / 12
  const middle = (from + to) / 2
  let total = 0
  for (let frame = Math.max(0, Math.ceil(from / hopSeconds)); frame < Math.min(frames, to / hopSeconds); frame++) {
    const weight = 1.1 - (2 * Math.abs(frame * hopSeconds - middle)) / Math.max(1e-6, to - from)
    for (let c = 0; c < 12; c++) mean[c] += weight * chroma[frame * 12 + c]
    total += weight
  }
  return total > 0 ? mean.map(value => value / total) : mean
}

/** How much speaks for a chord, as log odds. */
function fitOf({ treble, bass }: ChordEvidence, { root, quality }: (typeof STATES)[number]): number {
  const weights = CHORD_WEIGHTS[CHORD_QUALITIES.indexOf(quality)]
  let fit = weights[24]
  for (let step = 0; step < 12; step++) fit += weights[step] * treble[(root + step) % 12] + weights[12 + step] * bass[(root + step) % 12]
  return fit
}

/** Viterbi's algorithm: a change costs, and more in the middle of a bar. */
function bestPath(fits: number[][], spans: HalfBar[]): number[] {
  if (fits.length === 0) return []
  let totals = fits[0]
  const from: number[][] = []
  for (let i = 1; i < fits.length; i++) {
    const cost = spans[i].beginsBar ? CHANGE_COST : CHANGE_IN_BAR_COST
    const best = totals.reduce((index, total, state) => (total > totals[index] ? state : index), 0)
    const back = totals.map((total, state) => (total >= totals[best] - cost ? state : best))
    totals = fits[i].map((fit, state) => fit + (back[state] === state ? totals[state] : totals[best] - cost))
    from.push(back)
  }
  const path = [totals.indexOf(Math.max(...totals))]
  for (let i = from.length - 1; i >= 0; i--) path.unshift(from[i][path[0]])
  return path
}

function joinSame(spans: ChordSpan[]): ChordSpan[] {
  const joined: ChordSpan[] = []
  for (const span of spans) {
    const last = joined.at(-1)
    if (last && last.chord?.root === span.chord?.root && last.chord?.quality === span.chord?.quality) {
      last.confidence = (last.confidence * last.beatCount + span.confidence * span.beatCount) / (last.beatCount + span.beatCount)
      last.beatCount += span.beatCount
    } else joined.push({ ...span })
  }
  return joined
}

function sum(values: ArrayLike<number>): number {
  let total = 0
  for (let i = 0; i < values.length; i++) total += values[i]
  return total
}
