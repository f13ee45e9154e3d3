/** What speaks for each of the 24 keys: pitch classes above and in the bass, the chords they make, and how the beat begins and ends. */
import type { Mono } from '../audio/frames'
import type { PitchFrames } from './pitches'

/** Twelve values each, from the tonic up: treble, bass, major triads, minor triads, last treble, last bass, first bass. */
const KEY_INPUTS = 7 * 12
const EDGE_SECONDS = 3

/**
 * One row of evidence for every tonic from C up; both modes read the same row.
 * @param bars Seconds where bars begin, or null if they are not known: chords are then read over two seconds.
 */
export function keyEvidence({ treble, bass, hopSeconds }: PitchFrames, bars: number[] | null): Float32Array[] {
  const frames = treble.length / 12
  const starts = (bars ?? Array.from({ length: Math.ceil((frames * hopSeconds) / 2) }, (_, i) => 2 * i))
    .map(seconds => Math.round(seconds / hopSeconds))
    .filter(frame => frame >= 0 && frame < frames)
  const mean = (chroma: Mono, from: number, to: number) => {
    const sums = new Float64Array(12)
    for (let frame = Math.max(0, from); frame < Math.min(frames, to); frame++) {
      let total = 1e-9
      for (let c = 0; c < 12; c++) total += chroma[frame * 12 + c]
      // Loud frames do not drown soft ones: weights go with the root of the level.
      for (let c = 0; c < 12; c++) sums[c] += chroma[frame * 12 + c] / Math.sqrt(total)
    }
    return unit(sums)
  }
  const major = new Float64Array(12)
  const minor = new Float64Array(12)
  starts.forEach((start, i) => {
    const end = starts[i + 1] ?? frames
    const above = mean(treble, start, end)
    const below = mean(bass, start, end)
    const fits: number[] = []
    for (let root = 0; root < 12; root++) {
      for (const third of [4, 3]) fits.push(above[root] + above[(root + third) % 12] + above[(root + 7) % 12] + 0.7 * below[root])
    }
    const best = Math.max(...fits)
    fits.forEach((fit, k) => {
      const weight = Math.exp(12 * (fit - best))
      if (k % 2 === 0) major[k >> 1] += weight
      else minor[k >> 1] += weight
    })
  })
  const total = major.reduce((a, b) => a + b, 0) + minor.reduce((a, b) => a + b, 0) + 1e-9
  const edge = Math.round(EDGE_SECONDS / hopSeconds)
  let last = frames
  while (last > 1 && energyOf(treble, last - 1) + energyOf(bass, last - 1) < 0.02) last--
  let first = 0
  while (first < frames - 1 && energyOf(bass, first) < 0.02) first++
  // A loop goes back to where it began: the chord it happens to be cut off in is not where it comes to rest.
  const [endFrom, endTo] = isCutOff(treble, bass, last, hopSeconds) ? [first, first + Math.round(edge / 2)] : [last - edge, last]
  const groups = [
    mean(treble, 0, frames),
    mean(bass, 0, frames),
    major.map(value => value / total),
    minor.map(value => value / total),
    mean(treble, endFrom, endTo),
    mean(bass, endFrom, endTo),
    mean(bass, first, first + edge),
  ]
  return Array.from({ length: 12 }, (_, tonic) => {
    const row = new Float32Array(KEY_INPUTS)
    groups.forEach((group, g) => group.forEach((_, c) => (row[g * 12 + c] = 2 * Math.sqrt(group[(c + tonic) % 12]))))
    return row
  })
}

/** What a row says of the whole beat, undone of its root: shares of the notes above the bass and of the major triads, from the tonic up. */
export function sharesOf(row: Float32Array): { treble: number[]; major: number[] } {
  const group = (g: number) => Array.from(row.subarray(g * 12, (g + 1) * 12), value => (value / 2) ** 2)
  return { treble: group(0), major: group(2) }
}

/** A last stretch that is as loud as the beat before it is no ending. */
const OPEN_SHARE = 0.6
const OPEN_SECONDS = 0.5

function isCutOff(treble: Mono, bass: Mono, last: number, hopSeconds: number): boolean {
  const mean = (from: number, to: number) => {
    let sum = 0
    for (let frame = Math.max(0, from); frame < to; frame++) sum += energyOf(treble, frame) + energyOf(bass, frame)
    return sum / Math.max(1, to - Math.max(0, from))
  }
  const frames = treble.length / 12
  const hops = Math.max(1, Math.round(OPEN_SECONDS / hopSeconds))
  return last === frames && mean(frames - hops, frames) > OPEN_SHARE * mean(0, frames)
}

function energyOf(chroma: Mono, frame: number): number {
  let sum = 0
  for (let c = 0; c < 12; c++) sum += chroma[frame * 12 + c]
  return sum
}

function unit(values: Float64Array): Float64Array {
  const sum = values.reduce((a, b) => a + b, 0)
  return sum > 1e-9 ? values.map(value => value / sum) : values
}
