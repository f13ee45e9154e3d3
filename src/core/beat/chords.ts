/** Which chord sounds, by half bars. */
import type { Mono } from '../audio/frames'
import { CHORD_QUALITIES, INTERVALS, type ChordName, type ChordQuality } from './chord-names'
import { TONICS, type Key } from './key-names'
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

/** What rarer chords must be better by; set on composed beats. */
const RARITY: Record<ChordQuality, number> = { major: 0, minor: 0, seventh: 0.07, 'major seventh': 0.05, 'minor seventh': 0.05, suspended: 0.06, diminished: 0.06 }
const BASS_SHARE = 0.35
const CHANGE_COST = 0.05
const CHANGE_IN_BAR_COST = 0.13
/** Less pitched energy than this share of the loudest quarter of spans is no chord. */
const SOUNDING_SHARE = 0.04
const CERTAINTY = 14
/** What a chord must be better by for each of its notes that is not in the key. */
const STRANGE_NOTE_COST = 0.06

const STATES = CHORD_QUALITIES.flatMap(quality => Array.from({ length: 12 }, (_, root) => ({ root, quality })))

/**
 * @param beatSeconds When each beat begins, from the first one counted.
 * @param firstBeat Which beat, counted from bar one, the first of them is.
 * @see For the template and Viterbi approach: T. Fujishima, ICMC 1999; A. Sheh and D. Ellis, ISMIR 2003.
 */
export function findChords({ treble, bass, hopSeconds }: PitchFrames, beatSeconds: number[], firstBeat: number, beatsPerBar: number, key: Key): ChordSpan[] {
  const spans = halfBars(beatSeconds, firstBeat, beatsPerBar)
  const vectors = spans.map(({ from, to }) => ({ treble: meanOver(treble, hopSeconds, from, to), bass: meanOver(bass, hopSeconds, from, to) }))
  const energies = vectors.map(({ treble: above, bass: below }) => sum(above) + sum(below))
  const loud = [...energies].sort((a, b) => b - a)[Math.floor(energies.length / 4)] ?? 0
  const strangeness = STATES.map(state => STRANGE_NOTE_COST * strangeNotes(state, key))
  const fits = vectors.map(vector => STATES.map((state, i) => fitOf(vector, state) - strangeness[i]))
  const path = bestPath(fits, spans)
  return joinSame(
    spans.map((span, i) => {
      const best = fits[i][path[i]]
      const weights = fits[i].map(fit => Math.exp(CERTAINTY * (fit - best)))
      return { startBeat: span.startBeat, beatCount: span.beatCount, chord: energies[i] > loud * SOUNDING_SHARE ? STATES[path[i]] : null, confidence: Math.min(1, 1 / sum(weights)) }
    }),
  )
}

/** How many notes of a chord are not in the key; in minor its raised seventh is no stranger. */
function strangeNotes({ root, quality }: (typeof STATES)[number], { tonic, mode }: Key): number {
  const scale = mode === 'major' ? [0, 2, 4, 5, 7, 9, 11] : [0, 2, 3, 5, 7, 8, 10, 11]
  return INTERVALS[quality].filter(interval => !scale.includes((root + interval - TONICS.indexOf(tonic) + 24) % 12)).length
}

interface HalfBar {
  startBeat: number
  beatCount: number
  from: number
  to: number
  beginsBar: boolean
}

/** Whole bars where a bar has three or two beats. */
function halfBars(beatSeconds: number[], firstBeat: number, beatsPerBar: number): HalfBar[] {
  const step = beatsPerBar % 2 === 0 && beatsPerBar > 2 ? beatsPerBar / 2 : beatsPerBar
  const spans: HalfBar[] = []
  for (let beat = firstBeat + ((((-firstBeat % step) + step) % step)); beat - firstBeat + 1 < beatSeconds.length; beat += step) {
    const at = beat - firstBeat
    const end = Math.min(at + step, beatSeconds.length - 1)
    spans.push({ startBeat: beat, beatCount: end - at, from: beatSeconds[at], to: beatSeconds[end], beginsBar: beat % beatsPerBar === 0 })
  }
  return spans
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

function fitOf({ treble, bass }: { treble: Float64Array; bass: Float64Array }, { root, quality }: (typeof STATES)[number]): number {
  const intervals = INTERVALS[quality]
  let above = 0
  let norm = 1e-9
  for (let c = 0; c < 12; c++) norm += treble[c] ** 2
  for (const interval of intervals) above += treble[(root + interval) % 12]
  const lowest = sum(bass) + 1e-9
  const inBass = bass[root] / lowest + 0.3 * (bass[(root + 7) % 12] / lowest)
  return above / Math.sqrt(norm * intervals.length) + BASS_SHARE * inBass - RARITY[quality]
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
