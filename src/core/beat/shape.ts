/** The shape of a beat: sections that begin at bar lines where its sound changes, the same letter for those that sound alike. */
import { median } from '../audio/statistics'
import { distance, meanRow, viewBars, type BarView } from './bar-views'
import { FEATURE_RATE_HZ, type BeatFeatures } from './features'
import { nameSections } from './section-names'
import { findStarts } from './section-starts'

export interface ProposedSection {
  /** From 1. */
  startBar: number
  barCount: number
  /** "A" for the first kind of sound, "B" for the next. */
  letter: string
  /** Only a suggestion. */
  name: string
}

/** What each piece of `likenessEvidence` counts, the last added; fitted on composed beats by training/fit_likeness.py. */
const LIKENESS_WEIGHTS = [-2.9496, -1.7171, -1.3454, -0.1231, -1.4265, -3.8363, 2.3507]
/** Two sections are alike if that exceeds this; set on composed beats. */
const ALIKE = -2

/** Bars at the ends that are less loud than this share of the middle one are silent: what they would be unlike says nothing of the others. */
const SILENT = 0.2

/** @param barSeconds When each bar begins, and where the last one ends. */
export function findSections(features: BeatFeatures, barSeconds: number[]): ProposedSection[] {
  if (barSeconds.length < 2) return []
  const energies = barEnergies(features, barSeconds)
  const isHeard = (energy: number) => energy >= SILENT * median(energies)
  const [first, last] = [energies.findIndex(isHeard), energies.findLastIndex(isHeard)]
  const sections = shapeOf(viewBars(features, barSeconds.slice(first, last + 2)), energies.slice(first, last + 1))
  return sections.map((section, i) => ({
    ...section,
    startBar: i === 0 ? 1 : section.startBar + first,
    barCount: section.barCount + (i === 0 ? first : 0) + (i === sections.length - 1 ? energies.length - 1 - last : 0),
  }))
}

/** @param energies Of each bar, as mean log energy. */
export function shapeOf(views: readonly BarView[], energies: readonly number[]): ProposedSection[] {
  const bars = energies.length
  const starts = findStarts(views)
  const parts = starts.map((start, i) => ({ start, end: starts[i + 1] ?? bars }))
  const kinds = kindsOf(parts.map(({ start, end }) => views.map(view => meanRow(view.slice(start, end)))))
  const spans = joinAlike(parts.map((part, i) => ({ ...part, kind: kinds[i] })))
  const energyOf = ({ start, end }: { start: number; end: number }) => energies.slice(start, end).reduce((a, b) => a + b, 0) / (end - start)
  const names = nameSections(
    spans.map(({ kind }) => kind),
    spans.map(energyOf),
    spans.map(({ start, end }) => end - start),
  )
  return spans.map(({ start, end, kind }, i) => ({
    startBar: start + 1,
    barCount: end - start,
    letter: String.fromCharCode(65 + Math.min(25, kind)),
    name: names[i],
  }))
}

interface Span {
  start: number
  end: number
  kind: number
}

/** What sounds alike and follows each other is one section: a long loop is not forty verses. */
function joinAlike(parts: readonly Span[]): Span[] {
  const joined: Span[] = []
  for (const part of parts) {
    const last = joined.at(-1)
    if (last?.kind === part.kind) last.end = part.end
    else joined.push({ ...part })
  }
  return joined
}

/** Numbers from 0 in the order they first come: each section gets the number of the kind it is on average most like, or a new one. */
function kindsOf(means: Float64Array[][]): number[] {
  const kinds: number[] = []
  means.forEach((mean, i) => {
    const likeness = Array.from({ length: Math.max(-1, ...kinds) + 1 }, (_, kind) => {
      const members = kinds.flatMap((other, j) => (other === kind ? [j] : []))
      return members.reduce((sum, j) => sum + likenessOf(likenessEvidence(means[j], mean, i === j + 1)), 0) / members.length
    })
    const best = likeness.indexOf(Math.max(...likeness))
    kinds.push(best >= 0 && likeness[best] > ALIKE ? best : likeness.length)
  })
  return kinds
}

/**
 * The distance of two sections by each view, and whether one follows the other: then they are two because something changed.
 * @param a Its mean bar, by each view; so is `b`.
 */
export function likenessEvidence(a: readonly Float64Array[], b: readonly Float64Array[], follows: boolean): number[] {
  return [...a.map((row, view) => distance(row, b[view])), Number(follows)]
}

function likenessOf(evidence: readonly number[]): number {
  return evidence.reduce((sum, value, i) => sum + value * LIKENESS_WEIGHTS[i], LIKENESS_WEIGHTS[evidence.length])
}

function barEnergies({ levels }: BeatFeatures, barSeconds: readonly number[]): number[] {
  return barSeconds.slice(0, -1).map((from, bar) => {
    const first = Math.round(from * FEATURE_RATE_HZ)
    const end = Math.max(first + 1, Math.round(barSeconds[bar + 1] * FEATURE_RATE_HZ))
    return levels.reduce((total, level) => total + level.subarray(first, end).reduce((a, b) => a + b, 0), 0) / ((end - first) * levels.length)
  })
}
