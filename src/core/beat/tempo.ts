/** Tempo, metre and bar one: the readings of a beat, weighed. */
import { FEATURE_RATE_HZ } from './features'
import { METERS, proposeReadings, type Hypothesis } from './hypotheses'
import type { Heard } from './listen'
import { softmax, unpackModel } from './model'
import { autocorrelate } from './pulse'
import { findSwing, type Swing } from './swing'
import { FOUR_WEIGHTS, TEMPERATURES, THREE_WEIGHTS } from './weights'

export type Meter = readonly [number, number]

export interface BarOneReading {
  /** The first beat one at or after the start of the file. */
  seconds: number
  /** 0..1, given that tempo and metre are right. */
  confidence: number
}

export interface TempoReading {
  /** Of the beat of the metre: a quarter in x/4, a dotted quarter in 6/8 and 12/8. The mean, if the tempo drifts. */
  tempoBpm: number
  meter: Meter
  beatsPerBar: number
  /** Best first, at most three; never empty. */
  barOnes: BarOneReading[]
  /** 0..1, of the tempo; the readings of one analysis sum to at most 1. */
  confidence: number
  /** 0..1, of the metre, given that the tempo is right. */
  meterConfidence: number
  swing: Swing | null
  /** Seconds of every beat from the start of the file, for a beat that drifts; null for a steady one. */
  beats: number[] | null
}

export interface TempoAnalysis {
  /** Best first, at most three; empty if no pulse was found. */
  readings: TempoReading[]
}

export interface TempoWish {
  /** What the producer says: it is trusted, and only bar one is sought. */
  tempoBpm?: number
  /** Readings are taken from this range. */
  range?: { minBpm: number; maxBpm: number }
}

/** Below this the strength does not repeat itself: noise and speech. Set between those and the softest of our composed beats. */
const CLARITY_FLOOR = 0.12
/** Below this nothing begins: silence and drones (generated ones read 0.005, the calmest of our composed beats 0.14). */
const ACTIVITY_FLOOR = 0.03
/** Attacks are seen a little after they begin; measured on composed beats. */
const LATE_SECONDS = 0.006
const SAME_TEMPO = 0.015

const fours = unpackModel(FOUR_WEIGHTS)
const threes = unpackModel(THREE_WEIGHTS)

interface Weighed {
  reading: Hypothesis
  share: number
}

/** Of less than this, or of fewer bars, no tempo can be told: any three strokes have one. */
const LEAST_SECONDS = 8
const LEAST_BARS = 4
/** A file may end a little before its last bar does. */
const BAR_TOLERANCE = 0.05

export function findTempo(heard: Heard, wish: TempoWish = {}): TempoAnalysis {
  const seconds = heard.features.hops / FEATURE_RATE_HZ
  if (seconds < LEAST_SECONDS) return { readings: [] }
  const proposed = wish.tempoBpm === undefined ? heard.readings : readingsNear(heard, wish.tempoBpm)
  const inRange = wish.range ? proposed.filter(({ tempoBpm }) => tempoBpm >= wish.range!.minBpm && tempoBpm <= wish.range!.maxBpm) : proposed
  if (inRange.length === 0 || heard.features.activity < ACTIVITY_FLOOR || pulseClarity(heard) < CLARITY_FLOOR) return { readings: [] }
  const shares = softmax(
    inRange.map(reading => (reading.meter === 3 ? threes.score(reading.evidence)[0] : fours.score(reading.evidence)[reading.meter])),
    TEMPERATURES.reading,
  )
  const weighed = inRange.map((reading, i): Weighed => ({ reading, share: shares[i] }))
  const byTempo: Weighed[][] = []
  for (const entry of weighed) {
    const group = byTempo.find(([{ reading }]) => Math.abs(reading.tempoBpm / entry.reading.tempoBpm - 1) < SAME_TEMPO)
    if (group) group.push(entry)
    else byTempo.push([entry])
  }
  const readings = byTempo
    .map(group => readingOf(group, heard))
    .filter(({ tempoBpm, beatsPerBar }) => (seconds * tempoBpm) / (60 * beatsPerBar) > LEAST_BARS - BAR_TOLERANCE)
    .sort((a, b) => b.confidence - a.confidence)
    .slice(0, 3)
  return { readings }
}

function readingOf(group: Weighed[], heard: Heard): TempoReading {
  const confidence = total(group)
  const byMeter = METERS.map((_, meter) => group.filter(({ reading }) => reading.meter === meter))
  const meter = byMeter.reduce((best, entries, i) => (total(entries) > total(byMeter[best]) ? i : best), 0)
  const { beatsPerBar } = METERS[meter]
  const ones = [...byMeter[meter]].sort((a, b) => b.share - a.share)
  const measured = (60 * FEATURE_RATE_HZ) / ones[0].reading.tempoBpm
  const tempoBpm = heard.drift ? ones[0].reading.tempoBpm : toRoundTempo(ones[0].reading.tempoBpm, heard.features.hops / FEATURE_RATE_HZ)
  const period = (60 * FEATURE_RATE_HZ) / tempoBpm
  // The beats are surest in the middle of the file: that is where they stay when the tempo is rounded.
  const anchored = (hop: number) => hop + Math.round((heard.features.hops / 2 - hop) / measured) * (measured - period)
  const barOnes = ones.slice(0, 3).map(({ reading, share }) => ({
    seconds: firstBarOne(anchored(reading.barOneHop), period * beatsPerBar, heard),
    confidence: share / total(byMeter[meter]),
  }))
  return {
    tempoBpm,
    meter: METERS[meter].meter,
    beatsPerBar,
    barOnes,
    confidence,
    meterConfidence: total(byMeter[meter]) / Math.max(1e-12, confidence),
    swing: findSwing(heard.even.allOnsets, ones[0].reading.tempoBpm, ones[0].reading.barOneHop, METERS[meter].meter[1]),
    beats: heard.drift ? beatsOf(ones[0].reading.barOneHop, period, heard) : null,
  }
}

/** What rounding the tempo may move a beat by between the ends of the file. */
const ROUNDING_SECONDS = 0.015

/** Producers set whole tempos: one that the file cannot be told apart from is taken. */
function toRoundTempo(tempoBpm: number, seconds: number): number {
  const round = Math.round(tempoBpm)
  return Math.abs(round / tempoBpm - 1) * seconds < ROUNDING_SECONDS ? round : tempoBpm
}

/** A file may begin a hair after its bar one. */
const EARLY_SECONDS = 0.03

function firstBarOne(hop: number, bar: number, heard: Heard): number {
  let at = hop
  while (heard.toSeconds(at - bar) - LATE_SECONDS > -EARLY_SECONDS) at -= bar
  while (heard.toSeconds(at) - LATE_SECONDS < -EARLY_SECONDS) at += bar
  return Math.max(0, heard.toSeconds(at) - LATE_SECONDS)
}

function beatsOf(hop: number, period: number, heard: Heard): number[] {
  const end = heard.features.hops / FEATURE_RATE_HZ
  const beats: number[] = []
  let at = hop - Math.floor(hop / period + 1) * period
  for (let seconds = heard.toSeconds(at) - LATE_SECONDS; seconds < end; at += period, seconds = heard.toSeconds(at) - LATE_SECONDS)
    if (seconds > -EARLY_SECONDS) beats.push(Math.max(0, seconds))
  return beats
}

function readingsNear(heard: Heard, tempoBpm: number): Hypothesis[] {
  return proposeReadings(heard.even, [tempoBpm])
}

/** When every beat of a reading falls, and which beat, counted from bar one, the first of them is. */
export function beatTimes({ tempoBpm, barOnes, beats }: TempoReading, seconds: number): { seconds: number[]; firstBeat: number } {
  const one = barOnes[0].seconds
  if (beats) {
    const at = beats.reduce((best, beat, i) => (Math.abs(beat - one) < Math.abs(beats[best] - one) ? i : best), 0)
    return { seconds: beats, firstBeat: -at }
  }
  const period = 60 / tempoBpm
  const before = Math.floor((one + EARLY_SECONDS) / period)
  const times: number[] = []
  for (let k = -before; one + k * period < seconds; k++) times.push(Math.max(0, one + k * period))
  return { seconds: times, firstBeat: -before }
}

/** How well the onset strength repeats itself at the candidate tempos, 0..1. */
function pulseClarity({ even, readings }: Heard): number {
  const lags = [...new Set(readings.map(({ tempoBpm }) => tempoBpm))].flatMap(bpm => [1, 2, 4].map(beats => (beats * 60 * FEATURE_RATE_HZ) / bpm))
  if (lags.length === 0) return 0
  const correlation = autocorrelate(even.allOnsets, Math.ceil(Math.max(...lags)) + 2)
  const at = (lag: number) => Math.max(correlation[Math.floor(lag)] ?? 0, correlation[Math.ceil(lag)] ?? 0)
  return Math.max(...lags.map(at)) / Math.max(1e-12, correlation[0])
}

function total(entries: Weighed[]): number {
  return entries.reduce((sum, { share }) => sum + share, 0)
}
