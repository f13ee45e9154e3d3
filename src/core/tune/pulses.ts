/** The pulses of a voice: one place in every period, always the same one. */
import { dotProduct } from '../audio/dot-product'
import type { Mono } from '../audio/frames'
import { runsOf } from '../voice/runs'

export interface PitchByHop {
  /** 0 where there is no pitch. */
  f0Hz: Float32Array
  hopFrames: number
}

/** Pulses that follow each other without a pause; fractions of a frame, rising. */
export type PulseRun = readonly number[]

/** How far from where it is expected a pulse may lie, in periods. */
const SEARCH_PERIODS = 0.2
const COARSE_STEP = 3

/**
 * Runs begin where the voice is loudest and go on to both sides, each pulse where the wave is most like that round the one before it.
 * @param voice One channel; its first frame is that of the first hop. @param sampleRateHz Of the voice.
 * @returns runs in order; none of fewer than three pulses.
 */
export function findPulses(voice: Mono, { f0Hz, hopFrames }: PitchByHop, sampleRateHz: number): PulseRun[] {
  return runsOf(f0Hz.length, hop => f0Hz[hop] > 0).flatMap(({ from, to }) => {
    const periodAt = (frame: number) => sampleRateHz / f0Hz[Math.max(from, Math.min(to - 1, Math.round(frame / hopFrames)))]
    const first = Math.max(0, from * hopFrames)
    const last = Math.min(voice.length - 1, to * hopFrames)
    const anchor = loudestFrame(voice, first, last)
    const run = [...follow(voice, anchor, -1, first, periodAt).reverse(), anchor, ...follow(voice, anchor, 1, last, periodAt)]
    return run.length < 3 ? [] : [run]
  })
}

function loudestFrame(voice: Mono, from: number, to: number): number {
  let best = from
  for (let i = from; i < to; i++) if (Math.abs(voice[i]) > Math.abs(voice[best])) best = i
  return best
}

/** Pulses from one on, in one direction, as far as `limit`. */
function follow(voice: Mono, start: number, direction: 1 | -1, limit: number, periodAt: (frame: number) => number): number[] {
  const found: number[] = []
  for (let at = start; ;) {
    const period = periodAt(at)
    at = mostAlike(voice, at, at + direction * period, period)
    if (direction * (limit - at) < 0) return found
    found.push(at)
  }
}

/** The place near `expected` round which the wave is most like that round `from`, over a period; to a fraction of a frame. */
function mostAlike(voice: Mono, from: number, expected: number, period: number): number {
  const half = Math.round(period / 2)
  const length = 2 * half + 1
  const origin = Math.round(from)
  const reach = Math.max(2, Math.round(SEARCH_PERIODS * period))
  const centre = Math.round(expected)
  const first = centre - reach - 1
  const lags = 2 * reach + 3
  // What it is compared with, then where it is sought, laid out so that no step has to ask where the voice ends.
  const laid = new Float64Array(2 * length + lags - 1)
  lay(laid, 0, voice, origin - half, length)
  lay(laid, length, voice, first - half, length + lags - 1)
  const powers = new Float64Array(lags)
  let power = 1e-12
  for (let k = 0; k < length - 1; k++) power += laid[length + k] * laid[length + k]
  for (let lag = 0; lag < lags; lag++) {
    power += laid[2 * length - 1 + lag] ** 2
    powers[lag] = Math.max(power, 1e-12)
    power -= laid[length + lag] ** 2
  }
  const likeness = new Float64Array(lags).fill(-Infinity)
  const look = (lag: number) => {
    if (likeness[lag] === -Infinity) likeness[lag] = dotProduct(laid, 0, length + lag, length) / Math.sqrt(powers[lag])
    return likeness[lag]
  }
  // Every third place, then those beside the best: a voice's wave does not turn within three.
  let best = 1
  for (let lag = 1; lag < lags - 1; lag += COARSE_STEP) if (look(lag) > likeness[best]) best = lag
  const coarse = best
  for (let lag = Math.max(1, coarse - COARSE_STEP + 1); lag < Math.min(lags - 1, coarse + COARSE_STEP); lag++) if (look(lag) > likeness[best]) best = lag
  const [before, most, after] = [look(best - 1), look(best), look(best + 1)]
  const bend = before - 2 * most + after
  const fraction = bend < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (before - after)) / bend)) : 0
  // What was rounded off the place that it is compared with.
  return first + best + fraction + (from - origin)
}

/** So many frames of a voice, copied; beyond its ends is silence. */
function lay(into: Float64Array, at: number, voice: Mono, from: number, length: number): void {
  if (from + length <= 0) return
  const start = Math.max(0, from)
  into.set(voice.subarray(start, from + length), at + start - from)
}
