/** A value that moves over the song: points of decibels, joined by straight lines. */
import { decibelsToGain } from '../audio/decibels'
import type { RidePoint } from '../song/mix-schema'

/** In time order; none: 0 dB throughout. */
export type Lane = readonly RidePoint[]

/** Level before the first point and after the last. */
export function decibelsAt(lane: Lane, frame: number): number {
  if (lane.length === 0) return 0
  let low = 0
  let high = lane.length
  // The first point after the frame.
  while (low < high) {
    const middle = (low + high) >> 1
    if (lane[middle].frame > frame) high = middle
    else low = middle + 1
  }
  if (low === 0) return lane[0].gainDecibels
  if (low === lane.length) return lane[low - 1].gainDecibels
  const [before, after] = [lane[low - 1], lane[low]]
  return before.gainDecibels + ((frame - before.frame) / (after.frame - before.frame)) * (after.gainDecibels - before.gainDecibels)
}

/** As a factor; -60 dB and below is off. */
export function laneGainAt(lane: Lane, frame: number, offDecibels: number): number {
  const decibels = decibelsAt(lane, frame)
  return decibels <= offDecibels ? 0 : decibelsToGain(decibels)
}
