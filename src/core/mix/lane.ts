/** A value that moves over the song, in straight lines from point to point. */
import { decibelsToGain } from '../audio/decibels'
import type { LanePoint } from '../song/mix-schema'

/** Points in time order, two numbers each, a frame and a value: what a thread can be handed without a list of objects. */
export type Lane = Float64Array

export const NO_LANE: Lane = new Float64Array(0)

export function laneOf(points: readonly LanePoint[]): Lane {
  if (points.length === 0) return NO_LANE
  const lane = new Float64Array(2 * points.length)
  points.forEach(({ frame, value }, i) => {
    lane[2 * i] = frame
    lane[2 * i + 1] = value
  })
  return lane
}

/** Level before the first point and after the last; 0 without points. */
export function valueAt(lane: Lane, frame: number): number {
  const points = lane.length / 2
  if (points === 0) return 0
  let low = 0
  let high = points
  // The first point after the frame.
  while (low < high) {
    const middle = (low + high) >> 1
    if (lane[2 * middle] > frame) high = middle
    else low = middle + 1
  }
  if (low === 0) return lane[1]
  const before = lane[2 * low - 1]
  if (low === points) return before
  const [from, to] = [lane[2 * low - 2], lane[2 * low]]
  return before + ((frame - from) / (to - from)) * (lane[2 * low + 1] - before)
}

/** The value of the last point; that of the first before it. 0 without points. */
export function stepAt(lane: Lane, frame: number): number {
  let low = 0
  let high = lane.length / 2
  while (low < high) {
    const middle = (low + high) >> 1
    if (lane[2 * middle] > frame) high = middle
    else low = middle + 1
  }
  return lane.length === 0 ? 0 : lane[2 * Math.max(0, low - 1) + 1]
}

/** A lane of decibels as a factor; -60 dB and below is off. 1 without points. */
export function laneGainAt(lane: Lane, frame: number, offDecibels: number): number {
  const decibels = valueAt(lane, frame)
  return decibels <= offDecibels ? 0 : decibelsToGain(decibels)
}

export function isSameLane(a: Lane, b: Lane): boolean {
  if (a === b) return true
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false
  return true
}
