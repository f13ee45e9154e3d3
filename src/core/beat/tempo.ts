/** Tempo, beat phase and bar one from onset strength. */
import type { Mono } from '../audio/frames'
import { aboveLocalMean, ONSET_HOP_FRAMES, ONSET_RATE_HZ, type OnsetStrength } from './onset'
import { SAMPLE_RATE_HZ } from '../audio/frames'

export interface BarOneReading {
  /** The first beat one at or after the start of the file. */
  seconds: number
  /** 0..1; over all beats of the bar they sum to 1. */
  confidence: number
}

export interface TempoReading {
  tempoBpm: number
  /** Best first, at most three; never empty. */
  barOnes: BarOneReading[]
  /** 0..1; the readings of one analysis sum to at most 1. */
  confidence: number
}

export interface TempoAnalysis {
  /** Best first, at most three; empty if no pulse was found. */
  readings: TempoReading[]
  beatsPerBar: number
}

const SEARCH_BPM = { min: 55, max: 210 }
/** Where vocal beats cluster: the centre and width (in octaves) of a log-normal preference, set on our own generated beats. */
const PREFERRED_BPM = 112
const PREFERRED_OCTAVES = 0.75
/** Below this pulse clarity there is no beat: noise and speech read below 0.03, beats from 0.2. */
const CLARITY_FLOOR = 0.1

/**
 * Finds the pulse: autocorrelation with a comb over its multiples proposes tempos, the length of the file refines them.
 * @see D. Ellis, Beat tracking by dynamic programming, J. New Music Research 36 (2007), for the log-normal preference.
 */
export function findTempo(onsets: OnsetStrength): TempoAnalysis {
  const strength = aboveLocalMean(onsets.all)
  const correlation = autocorrelate(strength, Math.ceil((ONSET_RATE_HZ * 60 * 4.2) / SEARCH_BPM.min))
  if (!(correlation[0] > 1e-9)) return { readings: [], beatsPerBar: 4 }
  const scored: { tempoBpm: number; score: number }[] = []
  for (let bpm = SEARCH_BPM.min; bpm <= SEARCH_BPM.max; bpm *= 1.002) scored.push({ tempoBpm: bpm, score: combScore(correlation, bpm) * preference(bpm) })
  const peaks = scored
    .filter((entry, i) => i > 0 && i < scored.length - 1 && entry.score > scored[i - 1].score && entry.score >= scored[i + 1].score)
    .sort((a, b) => b.score - a.score)
    .slice(0, 6)
  const refined = distinct(peaks.map(peak => ({ ...peak, tempoBpm: refineTempo(strength, peak.tempoBpm) }))).slice(0, 3)
  if (refined.length === 0) return { readings: [], beatsPerBar: 4 }
  const clarity = pulseClarity(strength, refined[0].tempoBpm)
  if (clarity < CLARITY_FLOOR) return { readings: [], beatsPerBar: 4 }
  const total = refined.reduce((sum, entry) => sum + entry.score ** 3, 0)
  const certainty = Math.min(1, (clarity - CLARITY_FLOOR) / 0.8 + 0.4)
  const beatsPerBar = findBeatsPerBar(onsets, refined[0].tempoBpm)
  return {
    beatsPerBar,
    readings: refined.map(entry => ({
      tempoBpm: entry.tempoBpm,
      barOnes: findBarOne(onsets, entry.tempoBpm, beatsPerBar),
      confidence: (certainty * entry.score ** 3) / total,
    })),
  }
}

/** Bar one for a known tempo, best first: the phase by pulse matching, beat one by kick and snare. */
export function findBarOne(onsets: OnsetStrength, tempoBpm: number, beatsPerBar: number): BarOneReading[] {
  const period = (60 * ONSET_RATE_HZ) / tempoBpm
  const strength = aboveLocalMean(onsets.all)
  const phase = bestPhase(strength, period)
  const low = aboveLocalMean(onsets.low)
  const high = aboveLocalMean(onsets.high)
  const bar = period * beatsPerBar
  const pulse = meanAt(strength, phase, period)
  const scored = Array.from({ length: beatsPerBar }, (_, offset) => {
    const kick = meanAt(low, phase + offset * period, bar)
    const backbeat = beatsPerBar === 4 ? meanAt(high, phase + (offset + 1) * period, period * 2) - meanAt(high, phase + offset * period, period * 2) : 0
    // All else equal the bar begins early: beats are cut to begin on their bar.
    const score = kick + 0.5 * backbeat - 0.02 * offset * pulse
    let at = phase + offset * period
    while (at - bar >= -0.02 * ONSET_RATE_HZ) at -= bar
    return { seconds: Math.max(0, (at * ONSET_HOP_FRAMES) / SAMPLE_RATE_HZ), weight: Math.exp(score / (pulse + 1e-9)) }
  })
  const total = scored.reduce((sum, entry) => sum + entry.weight, 0)
  return scored
    .map(({ seconds, weight }) => ({ seconds, confidence: weight / total }))
    .sort((one, other) => other.confidence - one.confidence)
    .slice(0, 3)
}

/** Three if the accents repeat better every three beats than every four, else four. */
function findBeatsPerBar(onsets: OnsetStrength, tempoBpm: number): number {
  const period = (60 * ONSET_RATE_HZ) / tempoBpm
  const low = aboveLocalMean(onsets.low)
  const correlation = autocorrelate(low, Math.ceil(period * 12.5))
  const three = at(correlation, period * 3) + at(correlation, period * 6)
  const four = at(correlation, period * 4) + at(correlation, period * 8)
  return three > 1.25 * four ? 3 : 4
}

function preference(bpm: number): number {
  return Math.exp(-0.5 * (Math.log2(bpm / PREFERRED_BPM) / PREFERRED_OCTAVES) ** 2)
}

function combScore(correlation: Float64Array, bpm: number): number {
  const period = (60 * ONSET_RATE_HZ) / bpm
  return Math.max(0, (at(correlation, period) + at(correlation, 2 * period) + at(correlation, 3 * period) * 0.5 + at(correlation, 4 * period)) / correlation[0])
}

/** The tempo near a first guess whose beat and its subdivisions carry most of the strength's Fourier transform over the whole file. */
function refineTempo(strength: Mono, guessBpm: number): number {
  let centre = guessBpm
  let span = 0.012
  for (let round = 0; round < 4; round++) {
    let best = centre
    let bestPower = -Infinity
    for (let step = -12; step <= 12; step++) {
      const bpm = centre * (1 + (span * step) / 12)
      let power = 0
      for (const harmonic of [1, 2, 4]) power += fourierMagnitude(strength, (harmonic * bpm) / 60)
      if (power > bestPower) [best, bestPower] = [bpm, power]
    }
    centre = best
    span /= 6
  }
  return centre
}

function fourierMagnitude(strength: Mono, hz: number): number {
  const step = (2 * Math.PI * hz) / ONSET_RATE_HZ
  const cosStep = Math.cos(step)
  const sinStep = Math.sin(step)
  let re = 1
  let im = 0
  let sumRe = 0
  let sumIm = 0
  for (let i = 0; i < strength.length; i++) {
    sumRe += strength[i] * re
    sumIm += strength[i] * im
    const next = re * cosStep - im * sinStep
    im = re * sinStep + im * cosStep
    re = next
  }
  return Math.hypot(sumRe, sumIm)
}

/** How strongly the pulse stands out of the strength: the comb's share at the best tempo. */
function pulseClarity(strength: Mono, tempoBpm: number): number {
  const period = (60 * ONSET_RATE_HZ) / tempoBpm
  let sum = 0
  for (const value of strength) sum += value
  const mean = sum / strength.length
  const centred = strength.map(value => value - mean)
  const correlation = autocorrelate(centred, Math.ceil(period * 4.1))
  return Math.max(at(correlation, period), at(correlation, 2 * period), at(correlation, 4 * period)) / correlation[0]
}

function bestPhase(strength: Mono, period: number): number {
  let best = 0
  let bestScore = -Infinity
  for (let phase = 0; phase < period; phase += 0.25) {
    const score = meanAt(strength, phase, period) + 0.35 * meanAt(strength, phase + period / 2, period)
    if (score > bestScore) [best, bestScore] = [phase, score]
  }
  return best
}

/** Mean strength at a phase and every period after it, read with a short triangular window. */
function meanAt(strength: Mono, phase: number, period: number): number {
  let sum = 0
  let count = 0
  for (let position = phase; position < strength.length - 2; position += period) {
    const whole = Math.floor(position)
    const fraction = position - whole
    const read = (i: number) => (i >= 0 ? strength[i] : 0)
    sum += 0.5 * (1 - fraction) * read(whole - 1) + (1 - 0.5 * fraction) * read(whole) + (0.5 + 0.5 * fraction) * read(whole + 1) + 0.5 * fraction * read(whole + 2)
    count++
  }
  return count === 0 ? 0 : sum / count
}

function autocorrelate(values: Mono, maxLag: number): Float64Array {
  const correlation = new Float64Array(Math.min(maxLag, values.length - 1) + 1)
  for (let lag = 0; lag < correlation.length; lag++) {
    let sum = 0
    for (let i = lag; i < values.length; i++) sum += values[i] * values[i - lag]
    correlation[lag] = sum / (values.length - lag)
  }
  return correlation
}

function at(values: Float64Array, position: number): number {
  const whole = Math.floor(position)
  if (whole + 1 >= values.length) return 0
  return values[whole] + (position - whole) * (values[whole + 1] - values[whole])
}

function distinct<T extends { tempoBpm: number }>(entries: T[]): T[] {
  return entries.filter((entry, i) => entries.findIndex(other => Math.abs(other.tempoBpm / entry.tempoBpm - 1) < 0.02) === i)
}
