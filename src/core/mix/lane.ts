/** A value that moves over the song, in straight lines from point to point. */
import { decibelsToGain } from '../audio/decibels'
import type { LanePoint } from '../song/mix-schema'

/** In time order. */
export type Lane = readonly LanePoint[]

/** Level before the first point and after the last; 0 without points. */
export function valueAt(lane: Lane, frame: number): number {
  if (lane.length === 0) return 0
  let low = 0
  let high = lane.length
  // The first point after the frame.
  while (low < high) {
    const middle = (low + high) >> 1
    if (lane[middle].frame > frame) high = middle
    else low = middle + 1
  }
  if (low === 0) return lane[0].value
  if (low === lane.length) return lane[low - 1].value
  const [before, after] = [lane[low - 1], lane[low]]
  return before.value + ((frame - before.frame) / (after.frame - before.frame)) * (after.value - before.value)
}

/** A lane of decibels as a factor; -60 dB and below is off. 1 without points. */
export function laneGainAt(lane: Lane, frame: number, offDecibels: number): number {
  const decibels = valueAt(lane, frame)
  return decibels <= offDecibels ? 0 : decibelsToGain(decibels)
}
