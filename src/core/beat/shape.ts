/** The shape of a beat: sections that begin at bar lines where its sound changes, the same letter for those that sound alike. */
import { FEATURE_RATE_HZ, type BeatFeatures } from './features'

export interface ProposedSection {
  /** From 1. */
  startBar: number
  barCount: number
  /** "A" for the first kind of sound, "B" for the next. */
  letter: string
  /** Only a suggestion. */
  name: string
}

/** How far back and ahead of a bar line the sound is compared. */
const REACH_BARS = 2
/** What a boundary's change must exceed, and what odd lengths cost; set on composed beats. */
const CHANGE_FLOOR = 0.2
const MAX_BARS = 32
const SAME_SOUND = 0.62

/** @param barSeconds When each bar begins, and where the last one ends. */
export function findSections(features: BeatFeatures, barSeconds: number[]): ProposedSection[] {
  const bars = barSeconds.length - 1
  if (bars < 1) return []
  const vectors = barVectors(features, barSeconds)
  const starts = chooseStarts(changes(vectors), bars)
  const spans = starts.map((start, i) => ({ start, end: starts[i + 1] ?? bars }))
  const means = spans.map(({ start, end }) => meanVector(vectors.slice(start, end)))
  const letters: number[] = []
  means.forEach((mean, i) => {
    const alike = means.slice(0, i).map(other => likeness(mean, other))
    const best = alike.length > 0 ? alike.indexOf(Math.max(...alike)) : -1
    letters.push(best >= 0 && alike[best] > SAME_SOUND ? letters[best] : Math.max(-1, ...letters) + 1)
  })
  const energy = spans.map(({ start, end }) => meanEnergy(features, barSeconds[start], barSeconds[end]))
  const names = nameSections(letters, energy, spans.at(-1)!.end - spans.at(-1)!.start)
  return spans.map(({ start, end }, i) => ({ startBar: start + 1, barCount: end - start, letter: String.fromCharCode(65 + Math.min(25, letters[i])), name: names[i] }))
}

/** Levels by sub-band and pitch classes of each bar, each with mean 0 and deviation 1 over the beat. */
function barVectors({ levels, pitches, onsets }: BeatFeatures, barSeconds: number[]): Float64Array[] {
  const bars = barSeconds.length - 1
  const columns: Float64Array[] = []
  const over = (from: number, to: number, rateHz: number, read: (i: number) => number) => {
    const first = Math.max(0, Math.round(from * rateHz))
    const end = Math.max(first + 1, Math.round(to * rateHz))
    let total = 0
    for (let i = first; i < end; i++) total += read(i)
    return total / (end - first)
  }
  const column = (weight: number, rateHz: number, read: (i: number) => number) => columns.push(standard(Float64Array.from({ length: bars }, (_, bar) => over(barSeconds[bar], barSeconds[bar + 1], rateHz, read))).map(value => value * weight))
  for (const level of levels) column(1, FEATURE_RATE_HZ, i => level[i] ?? 0)
  for (const onset of onsets) column(1, FEATURE_RATE_HZ, i => onset[i] ?? 0)
  for (let c = 0; c < 12; c++) column(0.3, 1 / pitches.hopSeconds, i => pitches.treble[i * 12 + c] ?? 0)
  return Array.from({ length: bars }, (_, bar) => Float64Array.from(columns, values => values[bar]))
}

function standard(values: Float64Array): Float64Array {
  const mean = values.reduce((a, b) => a + b, 0) / values.length
  const deviation = Math.sqrt(values.reduce((total, value) => total + (value - mean) ** 2, 0) / values.length)
  // What hardly moves over the whole beat says nothing, however it would look when stretched.
  return values.map(value => (value - mean) / (deviation + 0.1 * Math.abs(mean) + 1e-3))
}

/** How much the sound changes at each bar line: nearer bars weigh more. Index 0 is the start of the first bar. */
function changes(vectors: Float64Array[]): number[] {
  return vectors.map((_, bar) => {
    if (bar === 0) return 0
    const side = (direction: -1 | 1) => {
      const near = Array.from({ length: REACH_BARS }, (_, k) => vectors[direction < 0 ? bar - 1 - k : bar + k]).filter(vector => vector !== undefined)
      return meanVector(near)
    }
    const [before, after] = [side(-1), side(1)]
    let square = 0
    for (let i = 0; i < before.length; i++) square += (before[i] - after[i]) ** 2
    return Math.sqrt(square / before.length)
  })
}

/** Dynamic programming over bar lines: changes count for a boundary, unusual lengths against it. */
function chooseStarts(change: number[], bars: number): number[] {
  const best = new Float64Array(bars + 1).fill(-Infinity)
  const from = new Int32Array(bars + 1)
  best[0] = 0
  for (let end = 1; end <= bars; end++) {
    for (let start = Math.max(0, end - MAX_BARS); start < end; start++) {
      const last = end === bars || start === 0
      const score = best[start] + (start > 0 ? change[start] - CHANGE_FLOOR : 0) - lengthCost(end - start) * (last ? 0.5 : 1)
      if (score > best[end]) [best[end], from[end]] = [score, start]
    }
  }
  const starts: number[] = []
  for (let at = bars; at > 0; at = from[at]) starts.unshift(from[at])
  // A last bar or two of ringing out are one ending.
  while (starts.length > 2 && bars - starts[starts.length - 2] <= 2) starts.pop()
  return starts
}

function lengthCost(bars: number): number {
  if (bars % 8 === 0) return 0.2
  if (bars % 4 === 0) return 0.32
  return bars === 1 ? 1 : 0.8
}

function meanVector(vectors: Float64Array[]): Float64Array {
  const mean = new Float64Array(vectors[0]?.length ?? 0)
  for (const vector of vectors) for (let i = 0; i < mean.length; i++) mean[i] += vector[i] / vectors.length
  return mean
}

/** 1 for the same sound, falling with the distance between two mean vectors. */
function likeness(a: Float64Array, b: Float64Array): number {
  let square = 0
  for (let i = 0; i < a.length; i++) square += (a[i] - b[i]) ** 2
  return Math.exp(-Math.sqrt(square / a.length))
}

function meanEnergy({ levels }: BeatFeatures, from: number, to: number): number {
  const first = Math.round(from * FEATURE_RATE_HZ)
  const end = Math.max(first + 1, Math.round(to * FEATURE_RATE_HZ))
  let total = 0
  for (const level of levels) for (let i = first; i < end; i++) total += level[i] ?? 0
  return total / ((end - first) * levels.length)
}

/** Calm first and last: intro and outro. What comes back loudest: the hook. What comes once, late: the bridge. */
function nameSections(letters: number[], energy: number[], lastBars: number): string[] {
  const loudest = Math.max(...energy)
  const calm = (i: number) => energy[i] < 0.82 * loudest
  const kinds = [...new Set(letters)]
  const energyOf = (kind: number) => Math.max(...energy.filter((_, i) => letters[i] === kind))
  const body = letters.map((_, i) => i).filter(i => !(i === 0 && letters.length > 2 && calm(i)) && !(i === letters.length - 1 && letters.length > 2 && (calm(i) || lastBars <= 2)))
  const repeated = kinds.filter(kind => body.filter(i => letters[i] === kind).length > 1)
  const candidates = (repeated.length > 0 ? repeated : kinds.filter(kind => body.some(i => letters[i] === kind))).sort((a, b) => energyOf(b) - energyOf(a))
  const hook = body.length > 1 && new Set(body.map(i => letters[i])).size > 1 ? candidates[0] : null
  const counts = new Map<string, number>()
  return letters.map((kind, i) => {
    const once = body.filter(other => letters[other] === kind).length === 1
    const base = !body.includes(i) ? (i === 0 ? 'Intro' : 'Outro') : kind === hook ? 'Hook' : once && i > letters.length / 2 && body.at(-1) !== i ? 'Bridge' : 'Verse'
    if (base === 'Intro' || base === 'Outro') return base
    counts.set(base, (counts.get(base) ?? 0) + 1)
    return `${base} ${counts.get(base)}`
  })
}
