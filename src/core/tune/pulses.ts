/** The pulses of a voice: one place in every period, always the same one. */
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
  const origin = Math.round(from)
  const reach = Math.max(2, Math.round(SEARCH_PERIODS * period))
  const centre = Math.round(expected)
  const alike = (at: number) => {
    let product = 0
    let power = 1e-12
    for (let k = -half; k <= half; k++) {
      const other = voice[at + k] ?? 0
      product += (voice[origin + k] ?? 0) * other
      power += other * other
    }
    return product / Math.sqrt(power)
  }
  let best = centre
  let most = -Infinity
  for (let at = centre - reach; at <= centre + reach; at++) {
    const likeness = alike(at)
    if (likeness > most) {
      most = likeness
      best = at
    }
  }
  const [before, after] = [alike(best - 1), alike(best + 1)]
  const bend = before - 2 * most + after
  const fraction = bend < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (before - after)) / bend)) : 0
  // What was rounded off the place that it is compared with.
  return best + fraction + (from - origin)
}
