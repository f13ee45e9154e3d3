/** Clicks of the mouth and of the converter: a leap of the wave, with nothing like it beside it. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { filtered, highPass } from '../effects/biquad'
import type { Stretch } from './phrases'

/** A leap has all the highs there are; the pulses of a voice have lost most of them between these two. */
const HIGHS_FROM_HZ = 11_000
const MIDDLE_FROM_HZ = 6_000
const LEAST_OF_MIDDLE = 0.35
const BIN_FRAMES = 24
/** So far to each side its like is looked for, but not nearer than this: it rings. */
const FAR_BINS = 30
const NEAR_BINS = 5
const ABOVE_SIDES = 3
/** It comes at once: just before it there is so much less. */
const ABOVE_BEFORE = 4.5
const BEFORE_BINS = 6
const LEAST_PEAK = 10 ** (-70 / 20)
/** Half of it is gone after so long: the burst of a t or k goes on. */
const MOST_BINS = 5
/** Creak makes such moments too, again and again: one as strong within this time, and it is no click. */
const CREAK_BINS = 120
const LIKE_IT = 0.4

/** A click of the mouth rings on: as long as its body stands out of what was before it, up to so long. */
const BODY_FROM_HZ = 1_000
const RING_BINS = 12
const RING_ABOVE = 1.5
const BEFORE_RING_BINS = 16

/** @param voice One channel at 48 kHz. @returns in order; a few milliseconds each, from its first sample on. */
export function findClicks(voice: Mono): Stretch[] {
  const highs = peaksAbove(voice, HIGHS_FROM_HZ)
  const middle = peaksAbove(voice, MIDDLE_FROM_HZ)
  const stands: number[] = []
  // A sound that begins in the middle of a wave begins with a leap.
  for (let bin = NEAR_BINS; bin < highs.length; bin++) {
    const peak = highs[bin]
    if (peak < LEAST_PEAK || peak < most(highs, bin - 2, bin + 3)) continue
    if (peak < ABOVE_SIDES * Math.max(most(highs, bin - FAR_BINS, bin - NEAR_BINS + 1), most(highs, bin + NEAR_BINS, bin + FAR_BINS + 1))) continue
    if (peak < ABOVE_BEFORE * most(highs, bin - BEFORE_BINS, bin - 1) || peak < LEAST_OF_MIDDLE * most(middle, bin - 1, bin + 2)) continue
    stands.push(bin)
  }
  const alone = stands.filter((_, i) => !isRepeated(highs, stands, i))
  if (alone.length === 0) return []
  const body = peaksAbove(voice, BODY_FROM_HZ)
  return alone.map(bin => {
    let from = bin
    let to = bin + 1
    while (from > 0 && bin - from < MOST_BINS && highs[from - 1] > 0.1 * highs[bin]) from--
    while (to < highs.length && to - bin <= MOST_BINS && highs[to] > 0.1 * highs[bin]) to++
    const before = most(body, from - BEFORE_RING_BINS, from)
    while (to < body.length && to - bin <= RING_BINS && body[to] > RING_ABOVE * before) to++
    return { startSeconds: (from * BIN_FRAMES) / SAMPLE_RATE_HZ, endSeconds: (to * BIN_FRAMES) / SAMPLE_RATE_HZ }
  })
}

function peaksAbove(voice: Mono, cutoffHz: number): Float32Array {
  const highs = filtered(voice, highPass(cutoffHz), highPass(cutoffHz))
  const peaks = new Float32Array(Math.floor(voice.length / BIN_FRAMES))
  for (let bin = 0; bin < peaks.length; bin++) {
    let peak = 0
    for (let i = bin * BIN_FRAMES; i < (bin + 1) * BIN_FRAMES; i++) {
      const level = Math.abs(highs[i])
      if (level > peak) peak = level
    }
    peaks[bin] = peak
  }
  return peaks
}

function isRepeated(peaks: Float32Array, stands: readonly number[], i: number): boolean {
  return [stands[i - 1], stands[i + 1]].some(
    other => other !== undefined && Math.abs(other - stands[i]) <= CREAK_BINS && peaks[other] > LIKE_IT * peaks[stands[i]],
  )
}

function most(values: Float32Array, from: number, to: number): number {
  let value = 0
  for (let i = Math.max(0, from); i < Math.min(values.length, to); i++) if (values[i] > value) value = values[i]
  return value
}
