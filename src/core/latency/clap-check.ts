/** Clapping with the click: where the claps land against it. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { median } from '../audio/statistics'

export const CLAPS = 8

export interface ClapCheck {
  /** For each click that a clap came near: how many milliseconds the clap came after it; negative is early. */
  offMilliseconds: number[]
  meanMilliseconds: number
  /** Standard deviation. */
  spreadMilliseconds: number
  /** system: all claps are late or early by the same amount, more than a hand can be. singer: they scatter. */
  verdict: 'on-time' | 'system' | 'singer'
}

const NEAR_SECONDS = 0.2
/** People who clap to a click are a little early, and even with practice scatter by 10 to 20 ms. */
const STEADY_MILLISECONDS = 18
const ON_TIME_MILLISECONDS = 25

/**
 * @param captured One channel at 48 kHz in which frame 0 is where it was heard (the round trip taken off).
 * @param clickFrames Where the clicks sounded.
 * @returns null if fewer than half of the clicks have a clap.
 * @see G. Aschersleben, Temporal control of movements in sensorimotor synchronization, Brain and Cognition 48 (2002), for how early
 * and how scattered people tap.
 */
export function checkClaps(captured: Mono, clickFrames: readonly number[]): ClapCheck | null {
  const claps = findClaps(captured)
  const offMilliseconds = clickFrames.flatMap(click => {
    const near = claps.filter(clap => Math.abs(clap - click) < NEAR_SECONDS * SAMPLE_RATE_HZ).sort((a, b) => Math.abs(a - click) - Math.abs(b - click))
    return near.length > 0 ? [(1_000 * (near[0] - click)) / SAMPLE_RATE_HZ] : []
  })
  if (offMilliseconds.length < clickFrames.length / 2) return null
  const meanMilliseconds = offMilliseconds.reduce((sum, off) => sum + off, 0) / offMilliseconds.length
  const spreadMilliseconds = Math.sqrt(offMilliseconds.reduce((sum, off) => sum + (off - meanMilliseconds) ** 2, 0) / offMilliseconds.length)
  const middle = median(offMilliseconds)
  const verdict = spreadMilliseconds > STEADY_MILLISECONDS ? 'singer' : Math.abs(middle) > ON_TIME_MILLISECONDS ? 'system' : 'on-time'
  return { offMilliseconds, meanMilliseconds, spreadMilliseconds, verdict }
}

const BLOCK = 48
const RISE = 8

/** Frames at which the level leaps up, at least 150 ms apart. */
function findClaps(captured: Mono): number[] {
  const blocks = Math.floor(captured.length / BLOCK)
  const power = Float64Array.from({ length: blocks }, (_, b) => {
    let sum = 0
    for (let i = b * BLOCK + 1; i < (b + 1) * BLOCK; i++) sum += (captured[i] - captured[i - 1]) ** 2
    return sum
  })
  const sorted = Array.from(power).sort((a, b) => a - b)
  const floor = Math.max(sorted[blocks >> 1] ?? 0, 1e-9)
  const loud = 0.05 * (sorted[Math.floor(0.995 * (blocks - 1))] ?? 0)
  const claps: number[] = []
  for (let b = 3; b < blocks; b++) {
    const before = Math.max(floor, power[b - 1], power[b - 2], power[b - 3])
    if (power[b] < RISE * before || power[b] < loud) continue
    const frame = b * BLOCK
    if (frame - (claps.at(-1) ?? -Infinity) > 0.15 * SAMPLE_RATE_HZ) claps.push(frame)
  }
  return claps
}
